// Writes docs/policy.schema.json from the schema by which every door checks a policy: npm run schema
import { readFileSync, writeFileSync } from 'node:fs'
import parse from 'joi-to-json'
import { policySchema } from '#core/policy'

const FILE = new URL('../docs/policy.schema.json', import.meta.url)

/** The published JSON Schema (draft 2019-09) of a policy. References between its parts are checked besides. */
export function publishedSchema(): object {
  return {
    $schema: 'https://json-schema.org/draft/2019-09/schema',
    $id: 'https://sober-gate.invalid/policy-1.schema.json',
    title: 'Sober Gate policy, format version 1',
    ...parse(policySchema, 'json-draft-2019-09') as object,
  }
}

export const currentFile = () => JSON.parse(readFileSync(FILE, 'utf8')) as object

if (process.argv[1] === new URL(import.meta.url).pathname) writeFileSync(FILE, `${JSON.stringify(publishedSchema(), null, 2)}\n`)
