// npm run kernel: compiles kernel/scan.ts to WebAssembly and writes it, as text, to core/text/kernel-code.ts.
import { writeFileSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import { compileKernel } from './lib/kernel.mjs'

writeFileSync(fileURLToPath(new URL('../core/text/kernel-code.ts', import.meta.url)), await compileKernel())
