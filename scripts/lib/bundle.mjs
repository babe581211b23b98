/** How whatever runs on Node.js beside the server is bundled by esbuild: worker threads, the command line, the benchmarks. */
export const BUNDLE = {
  bundle: true, platform: 'node', target: 'node20', format: 'esm', logLevel: 'warning',
  banner: { js: 'import { createRequire as __createRequire } from "node:module"; const require = __createRequire(import.meta.url);' },
}
