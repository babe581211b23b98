// The source files whose texts people see: pages, components, the core, the server, the command line and the scripts.
import { readdirSync } from 'node:fs'
import { join, relative } from 'node:path'
import { ROOT } from './ensure.mjs'

const TREES = ['app', 'core', 'server', 'cli', 'scripts']

/** @returns {string[]} paths from the root, sorted; migrations, which are statements, are left out */
export function sourceFiles() {
  return TREES.flatMap(tree =>
    readdirSync(join(ROOT, tree), { recursive: true, withFileTypes: true })
      .filter(f => f.isFile() && /\.(?:ts|vue|mjs)$/.test(f.name))
      .map(f => relative(ROOT, join(f.parentPath, f.name))))
    .filter(p => !p.includes('/migrations/') && !p.includes('/retired-'))
    .sort()
}
