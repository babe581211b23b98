import { fileURLToPath } from 'node:url'
import asc from 'assemblyscript/asc'

/** The module that holds kernel/scan.ts as WebAssembly, as text of TypeScript. */
export async function compileKernel() {
  let binary = null
  const { error, stderr } = await asc.main(
    [
      'kernel/scan.ts',
      '-O3',
      '--noAssert',
      '--runtime',
      'stub',
      '--enable',
      'simd',
      '--importMemory',
      '--initialMemory',
      '1',
      '--maximumMemory',
      '65536',
      '--outFile',
      'scan.wasm',
      '--baseDir',
      fileURLToPath(new URL('../..', import.meta.url)),
    ],
    {
      writeFile: (_name, contents) => {
        binary = contents
      },
    },
  )
  if (error || !binary) throw new Error(`kernel/scan.ts does not compile: ${error?.message ?? ''}\n${stderr.toString()}`)
  const text = Buffer.from(binary)
    .toString('base64')
    .replace(/.{1,100}/g, '  \'$&\',\n')
  const head = '// Made from kernel/scan.ts by `npm run kernel`; not to be edited.\n\n/** WebAssembly, in base64. */\n'
  return `${head}export const KERNEL = [\n${text}].join('')\n`
}
