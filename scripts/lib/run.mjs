import { spawn, spawnSync } from 'node:child_process'

const running = new Set()

/** Runs a command to its end, showing its output. Rejects with its name and exit code where it fails. */
export function run(command, args, options = {}) {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, { stdio: 'inherit', ...options })
    running.add(child)
    child.on('error', reject)
    child.on('exit', (code, signal) => {
      running.delete(child)
      if (code === 0) resolve()
      else reject(new Error(`${command} ${args.slice(0, 3).join(' ')} ended with ${signal ?? code}`))
    })
  })
}

/** The same without showing anything; returns its exit code, or the signal that ended it, and what it wrote. */
export async function runCaptured(command, args, options = {}) {
  const written = []
  const child = spawn(command, args, { stdio: ['ignore', 'pipe', 'pipe'], ...options })
  running.add(child)
  for (const stream of [child.stdout, child.stderr]) stream.on('data', chunk => written.push(chunk))
  const code = await new Promise((resolve, reject) => child.on('error', reject).on('close', (code, signal) => resolve(signal ?? code)))
  running.delete(child)
  return { code, output: Buffer.concat(written).toString() }
}

/** The same, and where it fails, the error holds the end of what it wrote. */
export async function runQuietly(command, args, options = {}) {
  const { code, output } = await runCaptured(command, args, options)
  if (code !== 0) throw new Error(`${command} ${args.slice(0, 3).join(' ')} ended with ${code}:\n${output.slice(-8000)}`)
}

/** Ends what run and runQuietly have begun. */
export function endRunning() {
  for (const child of running) child.kill('SIGTERM')
}

/** Runs a command and returns exit code and output. */
export function capture(command, args, options = {}) {
  const result = spawnSync(command, args, { encoding: 'utf8', ...options })
  return { code: result.status ?? 1, out: result.stdout ?? '', err: (result.stderr ?? '') + (result.error ? String(result.error) : '') }
}

export const isRoot = process.getuid?.() === 0

/** One line for the person at the terminal. */
export function say(line) {
  process.stdout.write(`${line}\n`)
}
