// Prints every text for people, a line each with its place: npm run texts [-- part of a path …]
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { ROOT } from './lib/ensure.mjs'
import { sourceFiles } from './lib/source-files.mjs'
import { textsOf } from './lib/texts.mjs'

const parts = process.argv.slice(2)
for (const path of sourceFiles().filter(p => !parts.length || parts.some(part => p.includes(part))))
  for (const { line, text } of textsOf(path, readFileSync(join(ROOT, path), 'utf8'))) console.log(`${path}:${line}: ${text}`)
