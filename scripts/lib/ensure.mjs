import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { isRoot, run, runQuietly, say } from './run.mjs'

export const ROOT = new URL('../..', import.meta.url).pathname

/** Says plainly where the version of Node.js will not do. */
export function ensureNode() {
  const [major, minor] = process.versions.node.split('.').map(Number)
  if (major < 20 || (major === 20 && minor < 19)) throw new Error(`Node.js 20.19 or newer is needed; this is ${process.versions.node}.`)
}

/** Installs packages, and builds if asked, where that is needed. Of two that do so in one checkout at once, one waits for the other. */
export async function ensureReady({ built }) {
  const lock = join(ROOT, '.preparing')
  let result = false
  while (!taken(lock)) {
    if (!result) say('Another start is preparing this checkout; waiting for it…')
    result = true
    await sleep(500)
  }
  try {
    await ensureDependencies()
    if (built) await ensureBuilt()
  }
  finally {
    rmSync(lock, { recursive: true, force: true })
  }
}

// A folder is made by one alone. Whoever holds it writes its number there; a number that runs no more was killed.
function taken(lock) {
  try {
    mkdirSync(lock)
    writeFileSync(join(lock, 'pid'), String(process.pid))
    return true
  }
  catch (error) {
    if (error.code !== 'EEXIST') throw error
  }
  try {
    const pid = existsSync(join(lock, 'pid')) ? Number(readFileSync(join(lock, 'pid'), 'utf8')) : null
    if (pid === null ? Date.now() - statSync(lock).mtimeMs > 10_000 : !isRunning(pid)) rmSync(lock, { recursive: true, force: true })
  }
  catch {
    // It was returned in this very moment; the next try takes it.
  }
  return false
}

function isRunning(pid) {
  try {
    process.kill(pid, 0)
    return true
  }
  catch (error) {
    return error.code === 'EPERM'
  }
}

/** Installs what package-lock.json names, if that has not been done for this very lock file. */
async function ensureDependencies() {
  const stamp = join(ROOT, 'node_modules/.sober-gate-installed')
  const wanted = hash([join(ROOT, 'package-lock.json')])
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted) return
  say('Installing packages (npm ci)…')
  await run('npm', ['ci', '--no-fund', '--no-audit', '--loglevel=error'], { cwd: ROOT })
  writeFileSync(stamp, wanted)
}

const SOURCES = [
  'app',
  'server',
  'core',
  'cli',
  'demo',
  'modules',
  'scripts/lib/bundle.mjs',
  'public',
  'nuxt.config.ts',
  'package.json',
  'package-lock.json',
  'tsconfig.json',
]

/** Builds the application, if it is not built from these very sources. */
async function ensureBuilt() {
  const stamp = join(ROOT, '.output/.built-from')
  const wanted = hash(SOURCES.flatMap(s => filesBelow(join(ROOT, s))))
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted) return
  say('Building (about a minute)…')
  await runQuietly(process.execPath, [join(ROOT, 'node_modules/nuxt/bin/nuxt.mjs'), 'build'], {
    cwd: ROOT,
    env: { ...process.env, NUXT_TELEMETRY_DISABLED: '1' },
  })
  writeFileSync(stamp, wanted)
}

function filesBelow(path) {
  if (!existsSync(path)) return []
  if (statSync(path).isFile()) return [path]
  return readdirSync(path, { withFileTypes: true })
    .sort((a, b) => (a.name < b.name ? -1 : 1))
    .flatMap(e => filesBelow(join(path, e.name)))
}

function hash(files) {
  const sum = createHash('sha256')
  for (const file of files) sum.update(file.slice(ROOT.length)).update('\0').update(readFileSync(file)).update('\0')
  return sum.digest('hex')
}

/** Installs packages of Debian if a file of theirs is missing. */
export async function ensureDebian(packages, isThere, why) {
  if (isThere()) return
  const command = `apt-get update && apt-get install -y ${packages.join(' ')}`
  if (!isRoot) throw new Error(`${why} Install it once as root: ${command}`)
  say(`Installing ${packages.join(', ')} from Debian…`)
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }
  const quiet = { stdio: ['ignore', 'ignore', 'inherit'], env }
  await run('apt-get', ['update', '-qq'], quiet)
  await run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...packages], quiet)
  if (!isThere()) throw new Error(`${why} ${packages.join(', ')} was installed, but still cannot be found.`)
}
