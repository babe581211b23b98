// Bundles the benchmarks as the application is bundled, and runs them: npm run bench [-- --json]
import { join } from 'node:path'
import { build } from 'esbuild'
import { BUNDLE } from './lib/bundle.mjs'
import { ensureDebian, ROOT } from './lib/ensure.mjs'
import { capture, run } from './lib/run.mjs'

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
