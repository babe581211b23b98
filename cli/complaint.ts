/** Something that the person at the keyboard can put right. */
export class Complaint extends Error {}

/** Says what is wrong with one file, and goes on with the others; the exit code tells. */
export function complain(file: string, error: unknown): void {
  process.stderr.write(`sober-gate: ${file}: ${error instanceof Error ? error.message : String(error)}\n`)
  process.exitCode = 2
}
