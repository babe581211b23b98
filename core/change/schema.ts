import type { Schema } from 'joi'
import {
  bindingSchema,
  entryPutSchema,
  entryRefSchema,
  idSchema,
  Joi,
  listSchema,
  ownerSchema,
  phraseSetSchema,
  quarantineSchema,
  ruleSchema,
  thresholdSchema,
} from '../policy'
import { THRESHOLDS, type PolicyChange, type Putable } from './types'

const newly = (schema: Schema) => (schema as ReturnType<typeof Joi.object>).fork(['id'], id => id.optional())
const MOST_CHANGES = 10_000
const MOST_ENTRIES = 1_000_000

/** What may be put, by its name: the object is as in the policy's JSON, and may lack its id. */
const OBJECTS: Record<Putable, Schema> = {
  'list': newly(listSchema).fork(['entries'], entries => entries.optional()),
  'use': newly(bindingSchema),
  'rule': newly(ruleSchema),
  'phrase set': newly(phraseSetSchema),
  'quarantine': newly(quarantineSchema),
  'threshold': thresholdSchema.keys({
    id: Joi.string()
      .valid(...THRESHOLDS)
      .required(),
  }),
}
const PUTABLE = Object.keys(OBJECTS) as Putable[]

const PUT: Record<string, Schema> = {
  ...Object.fromEntries(PUTABLE.map(what => [what, Joi.object({ put: Joi.valid(what).required(), [what]: OBJECTS[what].required() })])),
  entries: Joi.object({
    put: Joi.valid('entries').required(),
    list: idSchema.required(),
    entries: Joi.array().items(entryPutSchema).min(1).max(MOST_ENTRIES).required(),
  }),
}
const REMOVE: Record<string, Schema> = {
  ...Object.fromEntries(PUTABLE.map(what => [what, Joi.object({ remove: Joi.valid(what).required(), id: idSchema.required() })])),
  entries: Joi.object({
    remove: Joi.valid('entries').required(),
    list: idSchema.required(),
    entries: Joi.array().items(entryRefSchema).min(1).max(MOST_ENTRIES).required(),
  }),
}
const ORDER = Joi.object({ order: ownerSchema.required(), rules: Joi.array().items(idSchema).unique().max(10_000).required() })

/** Every form that a change has. */
export const CHANGE_SCHEMAS: readonly Schema[] = [...Object.values(PUT), ...Object.values(REMOVE), ORDER]

/** One thing that is wrong with changes as they were written. */
export interface WrittenWrong {
  /** JSON Pointer (RFC 6901). */
  path: string
  message: string
}

/** Reads changes that come from outside, and brings entries into canonical form. */
export function readChanges(value: unknown): { changes: PolicyChange[] } | { problems: WrittenWrong[] } {
  if (!Array.isArray(value)) return { problems: [{ path: '', message: 'changes are a list' }] }
  if (value.length > MOST_CHANGES) return { problems: [{ path: '', message: `at most ${MOST_CHANGES} changes can be made at once` }] }
  const problems: WrittenWrong[] = []
  const changes = value.map((change: unknown, i) => {
    const schema = schemaOf(change)
    if (!schema) {
      problems.push({ path: `/${i}`, message: 'a change says “put” or “remove” with what it is about, or “order”' })
      return change
    }
    const { value: read, error } = schema.validate(change, { abortEarly: false, convert: true, errors: { wrap: { label: '“”' } } })
    for (const d of error?.details ?? []) problems.push({ path: `/${[i, ...d.path].map(escaped).join('/')}`, message: d.message })
    return read as unknown
  })
  return problems.length ? { problems } : { changes: changes as PolicyChange[] }
}

function schemaOf(change: unknown): Schema | undefined {
  if (typeof change !== 'object' || change === null) return undefined
  const { put, remove, order } = change as Record<string, unknown>
  if (order !== undefined) return ORDER
  const [table, what] = put === undefined ? [REMOVE, remove] : [PUT, put]
  return typeof what === 'string' && Object.hasOwn(table, what) ? table[what] : undefined
}

function escaped(step: string | number): string {
  return String(step).replace(/~/g, '~0').replace(/\//g, '~1')
}
