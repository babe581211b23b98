// Writes docs/policy.schema.json and docs/changes.schema.json from the schemas that check them: npm run schema
import { readFileSync, writeFileSync } from 'node:fs'
import parse from 'joi-to-json'
import { CHANGE_SCHEMAS } from '#core/change'
import { Joi, policySchema } from '#core/policy'

const FILE = new URL('../docs/policy.schema.json', import.meta.url)
const CHANGES = new URL('../docs/changes.schema.json', import.meta.url)
const DRAFT = 'json-draft-2019-09'

/** The published JSON Schema (draft 2019-09) of a policy. References between its parts are checked besides. */
export function publishedSchema(): object {
  return {
    $schema: 'https://json-schema.org/draft/2019-09/schema',
    $id: 'https://sober-gate.invalid/policy-2.schema.json',
    title: 'Sober Gate policy, format version 2',
    ...(parse(policySchema, DRAFT) as object),
  }
}

/** The same of a list of changes to a policy. */
export function publishedChanges(): object {
  return {
    $schema: 'https://json-schema.org/draft/2019-09/schema',
    $id: 'https://sober-gate.invalid/changes-2.schema.json',
    title: 'Changes of a Sober Gate policy, format version 2',
    ...(parse(Joi.array().items(Joi.alternatives().try(...CHANGE_SCHEMAS)), DRAFT) as object),
  }
}

const read = (file: URL) => JSON.parse(readFileSync(file, 'utf8')) as object
export const currentFile = () => read(FILE)
export const currentChanges = () => read(CHANGES)

if (process.argv[1] === new URL(import.meta.url).pathname) {
  writeFileSync(FILE, `${JSON.stringify(publishedSchema(), null, 2)}\n`)
  writeFileSync(CHANGES, `${JSON.stringify(publishedChanges(), null, 2)}\n`)
}
