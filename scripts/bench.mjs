// Bundles the benchmarks as the application is bundled, and runs them: npm run bench [-- --json]; npm run bench -- tests: how long
// the whole of `npm test` takes, which fails above its budget.
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { build } from 'esbuild'
import { BUNDLE } from './lib/bundle.mjs'
import { ensureDebian, ROOT } from './lib/ensure.mjs'
import { capture, run, say } from './lib/run.mjs'

/** Seconds, on two cores with nothing else running, after installing and building. */
const TEST_BUDGET = 12 * 60

if (process.argv.includes('tests')) {
  await run(process.execPath, [join(ROOT, 'scripts/test.mjs')], { cwd: ROOT })
  const { seconds } = JSON.parse(readFileSync(join(ROOT, 'test-results/summary.json'), 'utf8'))
  say(`npm test took ${seconds.toFixed(0)} s of its ${TEST_BUDGET} s.`)
  process.exit(seconds > TEST_BUDGET ? 1 : 0)
}

await ensureDebian(
  ['ripgrep'],
  () => capture('rg', ['--version']).code === 0,
  'The benchmark of phrase scanning needs Debian’s ripgrep as its peer.',
)
const outfile = join(ROOT, 'node_modules/.cache/bench.mjs')
await build({
  ...BUNDLE,
  absWorkingDir: ROOT,
  entryPoints: ['bench/run.ts'],
  outfile,
})
await run(process.execPath, [
  ...(process.argv.includes('--profile') ? ['--cpu-prof', '--cpu-prof-dir=/tmp/prof'] : []),
  outfile,
  ...process.argv.slice(2),
])
