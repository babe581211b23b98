import { createHash } from 'node:crypto'
import type { ModuleOptions } from 'nuxt-security'
import { FRAME_STYLE } from './app/frame-style'

const hashOf = (text: string) => `'sha256-${createHash('sha256').update(text).digest('base64')}'`

const headers: NonNullable<ModuleOptions['headers']> = {
  crossOriginEmbedderPolicy: false,
  strictTransportSecurity: process.env.SOBER_GATE_BEHIND_TLS === '1' ? { maxAge: 31_536_000 } : false,
  contentSecurityPolicy: {
    'default-src': ['\'self\''],
    'script-src': ['\'self\'', '\'nonce-{{nonce}}\'', '\'strict-dynamic\''],
    // Of the empty style that components begin with, and of the frame in which mail is shown.
    'style-src': ['\'self\'', '\'nonce-{{nonce}}\'', hashOf(''), hashOf(FRAME_STYLE)],
    'style-src-attr': ['\'unsafe-inline\''],
    'img-src': ['\'self\'', 'data:', 'blob:'],
    'font-src': ['\'self\''],
    'connect-src': ['\'self\''],
    'frame-src': ['\'self\''],
    'object-src': ['\'none\''],
    'base-uri': ['\'none\''],
    'form-action': ['\'self\''],
    'frame-ancestors': ['\'none\''],
    'upgrade-insecure-requests': process.env.SOBER_GATE_BEHIND_TLS === '1',
  },
}

export default defineNuxtConfig({
  modules: ['./modules/entries', '@pinia/nuxt', '@element-plus/nuxt', 'nuxt-auth-utils', 'nuxt-security', '@nuxt/eslint'],
  ssr: false,
  components: [{ path: '~/components', pathPrefix: false }],
  devtools: { enabled: false },
  app: {
    head: {
      title: 'Sober Gate',
      htmlAttrs: { lang: 'en' },
      meta: [{ name: 'viewport', content: 'width=device-width, initial-scale=1' }],
      link: [{ rel: 'icon', type: 'image/svg+xml', href: '/icon.svg' }],
    },
  },
  css: [
    '@fontsource-variable/atkinson-hyperlegible-next',
    '@fontsource-variable/atkinson-hyperlegible-mono',
    '@fontsource-variable/literata',
    '~/assets/tokens.css',
    '~/assets/base.css',
    '~/assets/ledger.css',
  ],
  runtimeConfig: {
    session: { password: '', maxAge: 60 * 60 * 24 * 7, cookie: { sameSite: 'lax', secure: process.env.SOBER_GATE_BEHIND_TLS === '1' } },
  },
  compatibilityDate: '2026-11-01',
  nitro: {
    compressPublicAssets: { gzip: true, brotli: true },
    // cosmiconfig (of graphile-worker) loads TypeScript only to read configuration files in TypeScript, which this product has not.
    externals: { traceOptions: { ignore: ['**/node_modules/typescript/**'] } },
    typescript: { strict: true, tsConfig: { compilerOptions: { noUncheckedIndexedAccess: true } } },
  },
  typescript: { strict: true, tsConfig: { compilerOptions: { noUncheckedIndexedAccess: true } } },
  telemetry: { enabled: false },
  hooks: {
    // The application names the types of what it asks for itself (app/api/client.ts): those of every route only cost time to check.
    'nitro:init'(nitro) {
      nitro.hooks.hook('types:extend', types => void (types.routes = {}))
      // Every route is there when the server starts: one that is wrong stops it, and nobody's first request waits for one to load.
      nitro.options.rollupConfig = {
        ...nitro.options.rollupConfig!,
        plugins: [nitro.options.rollupConfig?.plugins, {
          name: 'routes-at-start',
          buildStart() {
            for (const handler of nitro.scannedHandlers) handler.lazy = false
          },
        }],
      }
    },
    'build:manifest'(manifest) {
      for (const item of Object.values(manifest)) item.prefetch = false
    },
  },
  auth: { loadStrategy: 'none' },
  elementPlus: { importStyle: 'css' },
  eslint: { config: { stylistic: true } },
  security: {
    headers,
    removeLoggers: false,
    rateLimiter: false,
    xssValidator: false,
    corsHandler: false,
    // Bodies are counted while they are read, by who sends them: server/platform/body.ts.
    requestSizeLimiter: false,
  },
})
