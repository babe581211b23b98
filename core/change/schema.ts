import type { Schema } from 'joi'
import {
  assignmentSchema,
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
import { drained } from './drained'
import { changeFromVersion1 } from './version-1'
import { THRESHOLDS, type ClauseKind, type PolicyChange } from './types'

const newly = (schema: Schema) => (schema as ReturnType<typeof Joi.object>).fork(['id'], id => id.optional())
/** Changes in one request. What is larger is one change with many entries, or an event of the product itself. */
export const MAX_CHANGES = 1000
const MAX_ENTRIES = 1_000_000

/** What may be put, by its kind: the value is as in the policy's JSON, and may lack its id. */
const VALUES: Record<ClauseKind, Schema> = {
  list: newly(listSchema).fork(['entries'], entries => entries.optional()),
  assignment: newly(assignmentSchema),
  rule: newly(ruleSchema),
  phraseSet: newly(phraseSetSchema),
  quarantine: newly(quarantineSchema),
  threshold: thresholdSchema.keys({
    id: Joi.string()
      .valid(...THRESHOLDS)
      .required(),
  }),
}
const CLAUSE_KINDS = Object.keys(VALUES) as ClauseKind[]

const typed = (type: PolicyChange['type'], kind: PolicyChange['kind']) => ({
  type: Joi.valid(type).required(),
  kind: Joi.valid(kind).required(),
})
const entriesOf = (entry: Schema) => Joi.array().items(entry).min(1).max(MAX_ENTRIES).required()

/** The form of every change, by its type and kind. */
const FORMS: Record<PolicyChange['type'], Partial<Record<PolicyChange['kind'], Schema>>> = {
  put: {
    ...Object.fromEntries(CLAUSE_KINDS.map(kind => [kind, Joi.object({ ...typed('put', kind), value: VALUES[kind].required() })])),
    entries: Joi.object({ ...typed('put', 'entries'), list: idSchema.required(), entries: entriesOf(entryPutSchema) }),
  },
  remove: {
    ...Object.fromEntries(CLAUSE_KINDS.map(kind => [kind, Joi.object({ ...typed('remove', kind), id: idSchema.required() })])),
    entries: Joi.object({ ...typed('remove', 'entries'), list: idSchema.required(), entries: entriesOf(entryRefSchema) }),
  },
  order: {
    rule: Joi.object({
      ...typed('order', 'rule'),
      owner: ownerSchema.required(),
      ids: Joi.array().items(idSchema).unique().max(10_000).required(),
    }),
  },
}

/** Every form that a change has. */
export const CHANGE_SCHEMAS: readonly Schema[] = Object.values(FORMS).flatMap(forms => Object.values(forms))

/** One thing that is wrong with changes as they were written. */
export interface WrittenWrong {
  /** JSON Pointer (RFC 6901). */
  path: string
  message: string
}

/** What came of reading changes. */
export type ReadChanges = { changes: PolicyChange[] } | { problems: WrittenWrong[] }

/** Reads changes that come from outside, and brings entries into canonical form. */
export function readChanges(value: unknown): ReadChanges {
  return drained(readingChanges(value))
}

/**
 * The same, piece by piece: it yields after each change, and after each entry of one that has many. Whoever serves others meanwhile
 * goes on when it suits.
 */
export function* readingChanges(value: unknown): Generator<undefined, ReadChanges> {
  if (!Array.isArray(value)) return { problems: [{ path: '', message: 'changes must be an array' }] }
  if (value.length > MAX_CHANGES) return { problems: [{ path: '', message: `at most ${MAX_CHANGES} changes can be made at once` }] }
  const problems: WrittenWrong[] = []
  const changes: unknown[] = []
  const check = <T>(schema: Schema, written: T, at: readonly (string | number)[]): T => {
    const { value: read, error } = schema.validate(written, { abortEarly: false, convert: true, errors: { wrap: { label: '“”' } } })
    for (const d of error?.details ?? []) problems.push({ path: `/${[...at, ...d.path].map(escaped).join('/')}`, message: d.message })
    return read as T
  }
  for (const [i, given] of (value as unknown[]).entries()) {
    const change = changeFromVersion1(given)
    const schema = schemaOf(change)
    if (!schema) problems.push({ path: `/${i}`, message: NO_FORM })
    const entries = schema && entriesIn(change as Record<string, unknown>)
    if (!schema || !entries) changes.push(schema ? check(schema, change, [i]) : change)
    else {
      const written = change as { type: string, entries: unknown[] }
      const [first] = written.entries
      const read: unknown[] = []
      for (const [n, entry] of entries.entries()) {
        read.push(check(written.type === 'put' ? entryPutSchema : entryRefSchema, entry, [i, 'entries', n]))
        yield
      }
      // The rest of it, with one entry that has been read.
      changes.push({ ...check(schema, { ...written, entries: [read[0] ?? first] }, [i]), entries: read })
    }
    yield
    if (problems.length > MAX_PROBLEMS) break
  }
  return problems.length ? { problems } : { changes: changes as PolicyChange[] }
}

const NO_FORM = 'a change has a “type” (put, remove or order) and the “kind” of what it is about (rule, list, assignment, phraseSet, '
  + 'quarantine, threshold or entries)'

/** So many mistakes are told; who made more sees the others later. */
const MAX_PROBLEMS = 100

/** The entries of a change that puts or removes several. */
function entriesIn({ kind, entries }: Record<string, unknown>): unknown[] | null {
  if (kind !== 'entries') return null
  return Array.isArray(entries) && entries.length > 1 && entries.length <= MAX_ENTRIES ? entries : null
}

function schemaOf(change: unknown): Schema | undefined {
  if (typeof change !== 'object' || change === null) return undefined
  const { type, kind } = change as Record<string, unknown>
  if (typeof type !== 'string' || typeof kind !== 'string' || !Object.hasOwn(FORMS, type)) return undefined
  const forms = FORMS[type as PolicyChange['type']]
  return Object.hasOwn(forms, kind) ? forms[kind as PolicyChange['kind']] : undefined
}

function escaped(step: string | number): string {
  return String(step).replace(/~/g, '~0').replace(/\//g, '~1')
}
