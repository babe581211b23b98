#!/usr/bin/env node
import { existsSync } from 'node:fs'

const built = new URL('../.output/cli/sober-gate.mjs', import.meta.url)
if (existsSync(built)) {
  await import(built)
}
else {
  process.stderr.write('The command line is not built yet. Run `npm start` once, or `npm ci && npm run build`.\n')
  process.exitCode = 2
}
