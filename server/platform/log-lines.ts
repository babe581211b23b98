import { writeSync } from 'node:fs'

/** Writes bytes and says how many were taken, or throws as writeSync of Node.js does. */
export type Write = (bytes: Uint8Array) => number

/**
 * Where the lines of a log go. A line that cannot be written, for a full disk or because nobody reads any more, is lost and
 * counted: a log must not stop, or fill the memory of, what it tells of. As soon as there is room it says how many are missing.
 */
export function logLines(write: Write = bytes => writeSync(2, bytes)): { write(line: string): void } {
  let lost = 0
  const whole = (line: string) => {
    for (let bytes = Buffer.from(line); bytes.length;) bytes = bytes.subarray(write(bytes))
  }
  return {
    write(line) {
      try {
        if (lost) {
          whole(
            `${JSON.stringify({ level: 40, time: Date.now(), pid: process.pid, lost, msg: 'lines of this log could not be written' })}\n`,
          )
          lost = 0
        }
        whole(line)
      }
      catch {
        lost++
      }
    },
  }
}
