import { cp } from 'node:fs/promises'
import { join } from 'node:path'
import { build, context, type BuildOptions } from 'esbuild'
import { addTemplate, defineNuxtModule } from 'nuxt/kit'
import type { Nitro } from 'nitropack/types'
import { BUNDLE } from '../scripts/lib/bundle.mjs'

/**
 * Bundles what runs outside the server's own bundle — worker threads and the command line — and copies the migrations
 * beside them. In development they are bundled again at every change.
 */
export default defineNuxtModule({
  meta: { name: 'sober-gate-entries' },
  setup(_, nuxt) {
    const root = nuxt.options.rootDir
    const options = (outdir: string, entries: Record<string, string>): BuildOptions => ({
      ...BUNDLE,
      absWorkingDir: root,
      entryPoints: Object.fromEntries(Object.entries(entries).map(([name, file]) => [name, join(root, file)])),
      outdir,
      outExtension: { '.js': '.mjs' },
      external: ['pg-native'],
      sourcemap: 'linked',
      splitting: true,
      chunkNames: 'shared-[hash]',
    })
    const workers = {
      mail: 'server/workers/mail.ts',
      open: 'server/workers/open.ts',
      lines: 'server/workers/lines.ts',
      compile: 'server/workers/compile.ts',
      check: 'server/workers/check.ts',
      verify: 'server/workers/verify.ts',
      simulate: 'server/workers/simulate.ts',
    }
    const commands = { 'sober-gate': 'cli/main.ts', 'send': 'demo/send.ts' }

    nuxt.hook('nitro:init', (nitro: Nitro) => {
      const out = nitro.options.output.serverDir
      const devDir = join(nuxt.options.buildDir, 'workers')
      const workerDir = nuxt.options.dev ? devDir : join(out, 'workers')
      // Functions, because import.meta.url is wrong until the entry has run.
      nitro.options.virtual['#places'] = nuxt.options.dev
        ? `export const workerFile = name => ${JSON.stringify(workerDir)} + '/' + name + '.mjs'; export const migrationsFolder = () => `
        + `${JSON.stringify(join(root, 'server/db/migrations'))}`
        : `import { fileURLToPath } from 'node:url'; import { dirname, join } from 'node:path'; const here = () => `
          + `dirname(process.argv[1]); export const workerFile = name => join(here(), 'workers', name + '.mjs'); export const `
          + `migrationsFolder = () => join(here(), 'migrations')`
      if (nuxt.options.dev) {
        nitro.hooks.hook('dev:start', async () => {
          const watching = await context(options(devDir, workers))
          await watching.rebuild()
          await watching.watch()
          nuxt.hook('close', () => watching.dispose())
        })
      }
      nitro.hooks.hook('compiled', async () => {
        if (nuxt.options.dev) return
        await build(options(join(out, 'workers'), workers))
        await build(options(join(out, '../cli'), commands))
        await cp(join(root, 'server/db/migrations'), join(out, 'migrations'), { recursive: true })
      })
    })
    addTemplate({
      filename: 'types/places.d.ts',
      getContents: () =>
        `declare module '#places' {\n  export function workerFile(name: string): string\n  export function migrationsFolder(): string\n}\n`
        + `declare module '#nitro-internal-virtual/server-handlers' {\n`
        + `  export const handlers: { route: string, method?: string, handler: unknown }[]\n}\n`,
    })
    nuxt.hook('nitro:config', (config) => {
      config.typescript ??= {}
      config.typescript.tsConfig ??= {}
      config.typescript.tsConfig.include = [...(config.typescript.tsConfig.include ?? []), './types/places.d.ts']
    })
  },
})
