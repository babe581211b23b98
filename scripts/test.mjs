// Runs every check: npm test [-- unit|standards|server|browser|static …]. Ends with a line "N passed, N failed".
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { startCluster } from './lib/cluster.mjs'
import { ensureDebian, ensureNode, ensureReady, ROOT } from './lib/ensure.mjs'
import { capture, endRunning, run, runCaptured, say } from './lib/run.mjs'
import { browserResult, slowestFiles, vitestResult } from './lib/test-results.mjs'

// Two tracks at once: what only computes beside what starts the product, which often waits.
const TRACKS = [['static', 'unit', 'standards'], ['server', 'browser']]
const PARTS = TRACKS.flat()
const RESULTS = join(ROOT, 'test-results')
// Checks make much that is soon thrown away; with more room for it (in MB) a tenth to a quarter of their time is saved.
const NODE_OPTIONS = `${process.env.NODE_OPTIONS ?? ''} --max-semi-space-size=64`.trim()
// The compiler in its native edition needs an eighth of the time; what reads Vue’s components needs the other.
const tsc = join(ROOT, 'node_modules/typescript-native/bin/tsc')
const bin = name => join(ROOT, 'node_modules/.bin', name)

/** What became of each part, in the order in which they ended. */
const ended = []

async function main() {
  const asked = process.argv.slice(2)
  const wrong = asked.find(a => !PARTS.includes(a))
  if (wrong) throw new Error(`There is no part “${wrong}”; there are ${PARTS.join(', ')}.`)
  const tracks = TRACKS.map(t => t.filter(p => !asked.length || asked.includes(p))).filter(t => t.length)
  const parts = tracks.flat()
  ensureNode()
  await ensureReady({ built: parts.some(p => ['static', 'server', 'browser'].includes(p)) })
  await ensureDebian(['python3'], () => capture('python3', ['--version']).code === 0, 'The checks against Python need Debian’s python3.')
  await ensureDebian(
    ['python3-dkim', 'python3-spf', 'python3-authres', 'python3-nacl', 'python3-dnspython'],
    () => capture('/usr/bin/python3', ['-c', 'import authres, dkim, dns, nacl, spf']).code === 0,
    'The checks of sender verification need Debian’s dkimpy and pyspf.',
  )
  if (parts.includes('browser'))
    await ensureDebian(
      ['chromium-headless-shell'],
      () => existsSync('/usr/bin/chromium-headless-shell'),
      'The browser tests need Debian’s Chromium.',
    )
  rmSync(RESULTS, { recursive: true, force: true })
  mkdirSync(RESULTS, { recursive: true })
  // Writes the configuration that lint, types and the test runner read.
  await run(bin('nuxt'), ['prepare', '--logLevel=silent'], { cwd: ROOT, env: { ...process.env, NUXT_TELEMETRY_DISABLED: '1' } })

  const began = Date.now()
  // The demo is loaded into it once, for the server's tests and the browser's.
  const cluster = parts.some(p => ['server', 'browser'].includes(p))
    ? await startCluster(mkdtempSync(join(tmpdir(), 'sober-gate-test-')), { quick: true })
    : null
  if (cluster) process.env.SOBER_GATE_TEST_CLUSTER = cluster.folder
  try {
    await runTracks(tracks)
  }
  finally {
    cluster?.remove()
  }
  summarise((Date.now() - began) / 1000)
}

// What only computes is nice(1): it takes what the product, of which some threads stand back, leaves. With nothing of ours to stand
// back for, other programs of the machine would get its time.
async function runTracks(tracks) {
  const running = new Set(tracks)
  const nicenessOf = track => () => (track === tracks[0] && running.size > 1 ? 19 : 0)
  await Promise.all(tracks.map(track => runTrack(track, tracks.length > 1, nicenessOf(track)).finally(() => running.delete(track))))
}

/**
 * @param isBeside another track runs at the same time: its output is held back until the part has ended
 * @param niceness asked before each command
 */
async function runTrack(parts, isBeside, niceness) {
  const how = { isBeside, niceness }
  const run = {
    static: () => checks(how),
    unit: () => vitest('unit', how),
    standards: () => vitest('standards', how),
    server: () => vitest('server', how),
    browser: () => browser(how),
  }
  for (const part of parts) {
    const began = Date.now()
    const result = await run[part]()
    ended.push({ part, seconds: (Date.now() - began) / 1000, ...result })
  }
}

async function checks(how) {
  const ran = [
    await command('lint', bin('eslint'), ['.'], how),
    await command('boundaries', bin('depcruise'), ['--config', '.dependency-cruiser.cjs', 'app', 'server', 'core', 'cli', 'demo'], how),
    await command('types of the application', bin('vue-tsc'), ['-p', '.nuxt/tsconfig.app.json', '--noEmit'], how),
    await command('types of the server', tsc, ['-p', '.nuxt/tsconfig.server.json', '--noEmit'], how),
    await command('types of the configuration', tsc, ['-p', '.nuxt/tsconfig.node.json', '--noEmit'], how),
    await command('types of the tests', tsc, ['-p', 'tsconfig.tests.json'], how),
  ]
  const failures = ran.filter(c => !c.ok).map(c => ({ name: c.name, why: c.output.slice(-3000) }))
  return { passed: ran.length - failures.length, failed: failures.length, files: [], tests: [], failures }
}

// Two workers, however few the cores: tests of the server wait for it as often as they compute, and whichever track is the last has both.
async function vitest(project, how) {
  const file = join(RESULTS, `${project}.json`)
  const args = ['run', '--project', project, '--maxWorkers=2', '--reporter=default', '--reporter=json', `--outputFile.json=${file}`]
  return counted(await command(project, bin('vitest'), args, how), file, vitestResult)
}

async function browser(how) {
  return counted(await command('browser', bin('playwright'), ['test'], how), join(RESULTS, 'browser.json'), browserResult)
}

// A runner that breaks off, or reports nothing, is a failure however much it counted before.
function counted({ ok, name, output }, file, read) {
  const result = existsSync(file) ? read(JSON.parse(readFileSync(file, 'utf8'))) : { passed: 0, failed: 0, files: [], tests: [], failures: [] }
  if ((ok && result.passed) || (!ok && result.failed)) return result
  const why = ok ? 'no test was run' : `the runner ended by itself:\n${output.slice(-3000)}`
  return { ...result, failed: result.failed + 1, failures: [...result.failures, { name, why }] }
}

/** Runs one command. @returns { ok, name, output }: whether it went through, and what it wrote unless that was shown at once */
async function command(name, program, programArgs, { isBeside, niceness }) {
  const nice = niceness()
  const [command, ...args] = [...(nice ? ['nice', '-n', String(nice)] : []), program, ...programArgs]
  const options = { cwd: ROOT, env: { ...process.env, NUXT_TELEMETRY_DISABLED: '1', FORCE_COLOR: '0', NODE_OPTIONS } }
  if (isBeside) {
    const { code, output } = await runCaptured(command, args, options)
    say(`\n== ${name}\n${output.trimEnd()}${code === 0 ? '' : `\n${name}: ended with ${code}`}`)
    return { ok: code === 0, name, output }
  }
  say(`\n== ${name}`)
  try {
    await run(command, args, options)
    return { ok: true, name, output: '' }
  }
  catch (error) {
    say(`${name}: ${error.message}`)
    return { ok: false, name, output: '' }
  }
}

function summarise(seconds) {
  const sum = which => ended.reduce((n, e) => n + e[which], 0)
  const [passed, failed] = [sum('passed'), sum('failed')]
  const files = slowestFiles(ended)
  say('\n== seconds')
  for (const { part, seconds } of ended) say(`${seconds.toFixed(0).padStart(5)}  ${part}`)
  say(`${seconds.toFixed(0).padStart(5)}  all of it, after installing and building`)
  if (files.length) say('\n== the ten slowest files')
  for (const { name, seconds } of files.slice(0, 10)) say(`${seconds.toFixed(0).padStart(5)}  ${name}`)
  // Once more at the end, where whoever reads only that finds it.
  const failures = ended.flatMap(e => e.failures)
  if (failures.length) say('\n== what failed')
  for (const { name, why } of failures) say(`${name}\n  ${why.trim().replaceAll('\n', '\n  ')}\n`)
  writeFileSync(join(RESULTS, 'summary.json'), JSON.stringify({ seconds, passed, failed, parts: ended }, null, 1))
  say(`\n${passed} passed, ${failed} failed`)
  process.exitCode = failed ? 1 : 0
}

for (const signal of ['SIGINT', 'SIGTERM'])
  process.once(signal, () => {
    endRunning()
    process.exitCode = 1
  })

main().catch((error) => {
  endRunning()
  const sum = which => ended.reduce((n, e) => n + e[which], 0)
  process.stderr.write(`${error.stack ?? error}\n\n${sum('passed')} passed, ${sum('failed') + 1} failed\n`)
  process.exitCode = 1
})
