import type { BuildOptions } from 'esbuild'

export const BUNDLE: BuildOptions
