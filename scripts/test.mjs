// Runs every check: npm test [-- unit|standards|server|browser|static …]. Ends with a line "N passed, N failed".
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { ensureDebian, ensureNode, ensureReady, ROOT } from './lib/ensure.mjs'
import { capture, run, say } from './lib/run.mjs'

const PARTS = ['static', 'unit', 'standards', 'server', 'browser']
let passed = 0
let failed = 0

async function main() {
  const asked = process.argv.slice(2)
  const wrong = asked.find(a => !PARTS.includes(a))
  if (wrong) throw new Error(`There is no part “${wrong}”; there are ${PARTS.join(', ')}.`)
  const parts = asked.length ? asked : PARTS
  ensureNode()
  const needsBuild = parts.some(p => ['static', 'server', 'browser'].includes(p))
  await ensureReady({ built: needsBuild })
  await ensureDebian(['python3'], () => capture('python3', ['--version']).code === 0, 'The checks against Python need Debian’s python3.')
  const results = join(ROOT, 'test-results')
  mkdirSync(results, { recursive: true })
  const bin = name => join(ROOT, 'node_modules/.bin', name)
  // Writes the configuration that lint, types and the test runner read.
  await run(bin('nuxt'), ['prepare', '--logLevel=silent'], { cwd: ROOT, env: { ...process.env, NUXT_TELEMETRY_DISABLED: '1' } })

  if (parts.includes('static')) {
    await check('lint', bin('eslint'), ['.'])
    await check('boundaries', bin('depcruise'), ['--config', '.dependency-cruiser.cjs', 'app', 'server', 'core', 'cli', 'demo'])
    await check('types of the application', bin('nuxt'), ['typecheck'])
    await check('types of the tests', bin('tsc'), ['-p', 'tsconfig.tests.json'])
  }
  for (const project of ['unit', 'standards', 'server'].filter(p => parts.includes(p)))
    await vitest(project, join(results, `${project}.json`), bin('vitest'))
  if (parts.includes('browser')) {
    await ensureDebian(['chromium'], () => existsSync('/usr/bin/chromium'), 'The browser tests need Debian’s Chromium.')
    await browser(join(results, 'browser.json'), bin('playwright'))
  }
  say(`\n${passed} passed, ${failed} failed`)
  process.exitCode = failed ? 1 : 0
}

async function check(name, command, args) {
  const ok = await ran(name, command, args)
  if (ok) passed++
  else failed++
}

async function vitest(project, file, command) {
  rmSync(file, { force: true })
  const ok = await ran(project, command, [
    'run',
    '--project',
    project,
    '--reporter=default',
    '--reporter=json',
    `--outputFile.json=${file}`,
  ])
  count(ok, file, r => ({
    passed: r.numPassedTests,
    failed: r.numFailedTests + r.testResults.filter(t => t.status === 'failed' && !t.assertionResults.length).length,
  }))
}

async function browser(file, command) {
  rmSync(file, { force: true })
  const ok = await ran('browser', command, ['test'])
  count(ok, file, r => ({ passed: r.stats.expected + r.stats.flaky, failed: r.stats.unexpected }))
}

// A runner that breaks off, or reports nothing, is a failure however much it counted before.
function count(ok, file, read) {
  const result = existsSync(file) ? read(JSON.parse(readFileSync(file, 'utf8'))) : { passed: 0, failed: 0 }
  passed += result.passed
  failed += result.failed
  if ((!ok && !result.failed) || (ok && !result.passed)) failed++
}

async function ran(name, command, args) {
  say(`\n== ${name}`)
  try {
    await run(command, args, { cwd: ROOT, env: { ...process.env, NUXT_TELEMETRY_DISABLED: '1', FORCE_COLOR: '0' } })
    return true
  }
  catch (error) {
    say(`${name}: ${error.message}`)
    return false
  }
}

main().catch((error) => {
  process.stderr.write(`${error.stack ?? error}\n\n${passed} passed, ${failed + 1} failed\n`)
  process.exitCode = 1
})
