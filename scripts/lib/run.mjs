import { spawn, spawnSync } from 'node:child_process'

/** Runs a command to its end, showing its output. Rejects with its name and exit code where it fails. */
export function run(command, args, options = {}) {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, { stdio: 'inherit', ...options })
    child.on('error', reject)
    child.on('exit', (code, signal) => code === 0 ? resolve() : reject(new Error(`${command} ${args.slice(0, 3).join(' ')} ended with ${signal ?? code}`)))
  })
}

/** Runs a command and gives back exit code and output. */
export function capture(command, args, options = {}) {
  const result = spawnSync(command, args, { encoding: 'utf8', ...options })
  return { code: result.status ?? 1, out: result.stdout ?? '', err: (result.stderr ?? '') + (result.error ? String(result.error) : '') }
}

export const isRoot = process.getuid?.() === 0

/** One line for the person at the terminal. */
export function say(line) {
  process.stdout.write(`${line}\n`)
}
