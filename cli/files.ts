import { readFile } from 'node:fs/promises'
import { complain, Complaint } from './complaint'

/** Calls `use` with the bytes of each file; "-" is standard input. A file that cannot be read is complained of. */
export async function eachFile(files: readonly string[], use: (bytes: Uint8Array, file: string) => Promise<void>): Promise<void> {
  if (!files.length) throw new Complaint('Name at least one file, or - for standard input.')
  for (const file of files) {
    try {
      await use(file === '-' ? await standardInput() : await readFile(file), file)
    }
    catch (error) {
      complain(file, readable(error))
    }
  }
}

async function standardInput(): Promise<Uint8Array> {
  const chunks: Buffer[] = []
  for await (const chunk of process.stdin) chunks.push(chunk as Buffer)
  return Buffer.concat(chunks)
}

/** What is wrong with a file, in words. */
export function readable(error: unknown): unknown {
  const { code } = error as { code?: string }
  if (code === 'ENOENT') return new Error('there is no such file')
  if (code === 'EISDIR') return new Error('this is a folder; name the files in it')
  if (code === 'EACCES') return new Error('no permission to read this file')
  return error
}

/** What was told of a file, a JSON object as text, as one line that begins with the file's name. */
export function printAnswer(file: string, json: string): void {
  process.stdout.write(`{"file":${JSON.stringify(file)},`)
  process.stdout.write(json.slice(1))
  process.stdout.write('\n')
}

/** One value as one line of JSON on standard output. */
export function printLine(value: unknown): void {
  process.stdout.write(`${JSON.stringify(value)}\n`)
}
