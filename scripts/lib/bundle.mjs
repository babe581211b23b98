/**
 * How whatever runs on Node.js beside the server is bundled by esbuild: worker threads, the command line, the benchmarks. The less is
 * read, the sooner it begins; names stay, for whoever reads a log. What is only sometimes needed lies in a file of its own.
 */
export const BUNDLE = {
  bundle: true,
  minifyWhitespace: true,
  minifySyntax: true,
  sourcesContent: false,
  platform: 'node',
  target: 'node20',
  format: 'esm',
  logLevel: 'warning',
  banner: { js: 'import { createRequire as __createRequire } from "node:module"; const require = __createRequire(import.meta.url);' },
}
