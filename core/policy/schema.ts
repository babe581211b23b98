import type { CustomHelpers, ErrorReport } from 'joi'
import {
  canonicalEntry,
  EFFECT_KINDS,
  effectKindOf,
  ENTRY_KINDS,
  entryKey,
  FACT_NAMES,
  factSchemas,
  type EntryKind,
  type EntryText,
} from '../kinds'
import { compileExpression } from './expressions'
import { instant, Joi } from './joi'
import { isPersonal } from './owners'
import { danglingReferences, type PolicyProblem } from './references'
import { fromVersion1 } from './version-1'
import { fromVersion2 } from './version-2'
import { COUNTS, HAZARDS, groupMembers, PHRASE_PLACES, STATES, STOPS, type Condition, type Counts, type Policy, type Rule } from './types'

const id = Joi.string()
  .trim()
  .max(80)
  .pattern(/^[\w.:-]{1,80}$/)
  .messages({ 'string.pattern.base': '{{#label}} can have letters, digits, “.”, “:”, “_” and “-” only, at most 80' })
const name = Joi.string().trim().min(1).max(120)
const text = (most: number) => Joi.string().max(most)
const owner = Joi.string()
  .max(100)
  .pattern(/^(organisation|(department|person):[\w.:-]{1,80})$/)
  .messages({ 'string.pattern.base': '{{#label}} must be “organisation”, “department:ID” or “person:ID”' })
const state = Joi.string().valid(...STATES)
const direction = Joi.string().valid('inbound', 'outbound', 'internal')
const counts = Joi.string().valid(...COUNTS)

const MAX_PHRASES = 5000
/** In one condition; what is more belongs on a list. */
const MAX_SENDERS = 200
export const MAX_ENTRIES = 1_000_000
const MAX_NESTING = 5

const headerName = Joi.string()
  .lowercase()
  .max(76)
  .pattern(/^[!-9;-~]{1,76}$/)
  .messages({ 'string.pattern.base': '{{#label}} must be the name of a header, such as x-mailer' })

function entryTextKeys(kinds: readonly EntryKind[] = ENTRY_KINDS) {
  return {
    kind: Joi.string()
      .valid(...kinds)
      .required(),
    value: Joi.string().allow('').max(320).required(),
  }
}

function entryText(kinds: readonly EntryKind[] = ENTRY_KINDS) {
  return Joi.object(entryTextKeys(kinds)).custom(canonicalValue)
}

function canonicalValue<T extends EntryText>(entry: T, helpers: CustomHelpers<T>): T | ErrorReport {
  const canonical = canonicalEntry(entry.kind, entry.value)
  return 'error' in canonical ? helpers.message({ custom: canonical.error }) : { ...entry, value: canonical.value }
}

const entryKeys = Joi.object({
  ...entryTextKeys(),
  note: text(500).allow(''),
  expires: instant,
  addedAt: instant,
  addedBy: text(200),
})

export const entrySchema = entryKeys.keys({ id: id.required() }).custom(canonicalValue)

export const listSchema = Joi.object({
  id: id.required(),
  name: name.required(),
  owner: owner.required(),
  usualSide: Joi.string().valid('allow', 'block').required(),
  enabled: Joi.boolean().required(),
  entries: Joi.array().items(entrySchema).max(MAX_ENTRIES).unique('id').required(),
})

export const stopSchema = Joi.object({
  to: Joi.string()
    .valid(...STOPS)
    .required(),
  quarantine: Joi.when('to', { is: 'quarantine', then: id.required(), otherwise: Joi.forbidden() }),
  reply: Joi.when('to', { is: 'refuse', then: text(400), otherwise: Joi.forbidden() }),
  confirmed: Joi.when('to', { is: Joi.valid('erase', 'discard'), then: Joi.boolean(), otherwise: Joi.forbidden() }),
})

const hazards = Joi.array()
  .items(Joi.string().valid(...HAZARDS))
  .min(1)
  .max(HAZARDS.length)
  .unique()
// Must and an end for all are an administrator's word; a person has neither.
const MANDATORY_MESSAGES = {
  'must.person': '“mandatory” can be set for the organisation or a department only',
  'must.end': 'only a mandatory rule can stop the later rules of everyone',
  'must.counts': 'in mandatory lists and rules only verified senders count',
}
interface MayBeMandatory {
  owner: string
  mandatory?: boolean
  end?: string
  counts?: Counts
  when?: Condition
  except?: Condition[]
}
function mandatoryIsAllowed<T extends MayBeMandatory>(
  clause: T,
  helpers: CustomHelpers<T>,
): T | ErrorReport {
  const at = (code: keyof typeof MANDATORY_MESSAGES, key: string) =>
    helpers.error(code, undefined, helpers.state.localize!([...(helpers.state.path ?? []), key]))
  if (clause.mandatory && isPersonal(clause.owner)) return at('must.person', 'mandatory')
  if (clause.end === 'all' && !clause.mandatory) return at('must.end', 'end')
  if (clause.mandatory && asksLess(clause)) return at('must.counts', 'counts')
  for (const part of ['when', 'except'] as const)
    if (clause.mandatory && [clause[part] ?? []].flat().some(asksLess)) return at('must.counts', part)
  return clause
}

/** A From that nothing verified would count there. */
function asksLess(c: Condition | { counts?: Counts }): boolean {
  if ('counts' in c && c.counts !== undefined) return c.counts !== 'verified'
  return (groupMembers(c as Condition) ?? []).some(asksLess)
}

export const assignmentSchema = Joi.object({
  id: id.required(),
  list: id.required(),
  owner: owner.required(),
  side: Joi.string().valid('allow', 'block').required(),
  mandatory: Joi.boolean(),
  state: state.required(),
  direction,
  stop: Joi.when('side', { is: 'block', then: stopSchema.required(), otherwise: Joi.forbidden() }),
  protect: Joi.when('side', { is: 'allow', then: hazards, otherwise: Joi.forbidden() }),
  counts: Joi.when('side', { is: 'allow', then: counts, otherwise: Joi.forbidden() }),
})
  .custom(mandatoryIsAllowed)
  .messages(MANDATORY_MESSAGES)

const phrase = Joi.string().trim().min(1).max(300)
const nearItems = Joi.object({
  phrases: Joi.array().items(phrase).min(1).max(200).required(),
  within: Joi.number().integer().min(0).max(1000),
})
const phraseItem = Joi.alternatives().try(
  phrase,
  Joi.object({ text: phrase.required(), weight: Joi.number().min(0).max(1000), near: nearItems }),
)
const phraseItems = Joi.array().items(phraseItem).max(MAX_PHRASES)
const place = Joi.string()
  .lowercase()
  .max(120)
  .pattern(new RegExp(`^(?:${PHRASE_PLACES.join('|')}|header:[!-9;-~]{1,76})$`))
  .messages({ 'string.pattern.base': `{{#label}} must be one of ${PHRASE_PLACES.join(', ')}, header:NAME` })
const places = Joi.array().items(place).min(1).max(100).unique()
const group = Joi.array()
  .items(Joi.link('#condition'))
  .min(1)
  .max(200)
  .messages({ 'array.min': '{{#label}} is empty. “all” without conditions would match every message; for that, use every: true' })

/** Conditions that are more than a question to one fact; each has its own way of being looked up. */
const STRUCTURES = ['all', 'any', 'none', 'sender', 'senderOn', 'phrases', 'set', 'expression']
const KINDS_OF_CONDITION = [...STRUCTURES, ...FACT_NAMES]
const without = (kinds: string[]) => KINDS_OF_CONDITION.filter(k => !kinds.includes(k))

export const conditionSchema = Joi.object({
  all: group,
  any: group,
  none: group,
  sender: Joi.alternatives()
    .conditional(Joi.array(), {
      then: Joi.array().items(entryText()).min(1).max(MAX_SENDERS).unique((a: EntryText, b: EntryText) => entryKey(a) === entryKey(b)),
      otherwise: entryText(),
    })
    .messages({ 'array.min': '{{#label}} is empty: enter at least one sender', 'array.unique': '{{#label}} is entered twice' }),
  senderOn: id,
  phrases: phraseItems.min(1).messages({ 'array.min': '{{#label}} is empty: enter at least one word or phrase' }),
  set: id,
  expression: Joi.string().min(1).max(1000).custom(isExpression),
  ...factSchemas({ Joi, instant, headerName, entryText }),
  counts,
  where: places,
  whole: Joi.boolean(),
  view: Joi.string().valid('plain', 'bare', 'obfuscated'),
  minimum: Joi.number().greater(0).max(1_000_000),
  near: nearItems,
})
  .xor(...KINDS_OF_CONDITION)
  .without('counts', without(['sender', 'senderOn']))
  .without('where', without(['phrases', 'set', 'expression']))
  .without('whole', without(['phrases', 'set']))
  .without('view', without(['phrases', 'set']))
  .without('minimum', without(['phrases', 'set']))
  .without('near', without(['phrases', 'set']))
  .messages({
    'object.missing': `{{#label}} needs one of ${KINDS_OF_CONDITION.join(', ')}`,
    'object.xor': `{{#label}} can have only one of ${KINDS_OF_CONDITION.join(', ')}`,
    'object.without': '{{#label}}: {{#main}} and {{#peer}} cannot be combined',
  })
  .id('condition')

function isExpression(source: string, helpers: CustomHelpers<string>): string | ErrorReport {
  const read = compileExpression(source)
  return 'error' in read ? helpers.message({ custom: `{{#label}} is not a valid regular expression (RE2 syntax): ${read.error}` }) : source
}

const effectSchema = Joi.object({
  kind: Joi.string()
    .valid(...EFFECT_KINDS)
    .required(),
  value: Joi.when('kind', {
    is: Joi.valid(...EFFECT_KINDS.filter(kind => !effectKindOf(kind).valued)),
    then: Joi.forbidden(),
    otherwise: text(1000).min(1).required(),
  }),
  inEveryLane: Joi.boolean(),
})

const claimSchema = Joi.object({
  stop: stopSchema,
  protect: hazards,
  place: Joi.object({
    to: Joi.string().valid('inbox', 'lowPriority', 'folder', 'filed').required(),
    folder: Joi.when('to', { is: 'folder', then: name.required(), otherwise: Joi.forbidden() }),
  }),
  effect: effectSchema,
}).length(1)

export const ruleSchema = Joi.object({
  id: id.required(),
  name: name.required(),
  description: text(2000).allow(''),
  group: text(120).allow(''),
  owner: owner.required(),
  mandatory: Joi.boolean(),
  overridesLists: Joi.boolean(),
  state: state.required(),
  direction,
  when: Joi.link('#condition').required(),
  except: Joi.array().items(Joi.link('#condition')).max(200).required(),
  claims: Joi.array().items(claimSchema).min(1).max(50).required().custom(claimsAgree),
  end: Joi.string().valid('owner', 'all'),
  expires: instant,
  reviewOn: instant,
})
  .shared(conditionSchema)
  .custom(nesting)
  .custom(mandatoryIsAllowed)
  .messages(MANDATORY_MESSAGES)

function nesting(rule: Rule, helpers: CustomHelpers<Rule>): Rule | ErrorReport {
  const depth = (c: Condition): number => 1 + Math.max(-1, ...(groupMembers(c) ?? []).map(depth))
  return [rule.when, ...rule.except].some(c => depth(c) > MAX_NESTING)
    ? helpers.message({ custom: `conditions are nested more than ${MAX_NESTING} groups deep` })
    : rule
}

function claimsAgree(claims: Policy['rules'][number]['claims'], helpers: CustomHelpers): typeof claims | ErrorReport {
  const count = (kind: string) => claims.filter(c => kind in c).length
  if (count('stop') && count('protect')) return helpers.message({ custom: 'a rule can either block mail or allow it, not both' })
  for (const kind of ['stop', 'protect', 'place'])
    if (count(kind) > 1) return helpers.message({ custom: `a rule can have “${kind}” only once` })
  return claims
}

export const phraseSetSchema = Joi.object({
  id: id.required(),
  name: name.required().messages({ 'string.empty': 'a phrase set needs a name', 'any.required': 'a phrase set needs a name' }),
  owner: owner.required(),
  phrases: phraseItems.required(),
  minimum: Joi.number().greater(0).max(1_000_000),
})

export const thresholdSchema = Joi.object({ at: Joi.number().min(-1000).max(1000).required(), stop: stopSchema.required() })

export const quarantineSchema = Joi.object({ id: id.required(), name: name.required(), general: Joi.boolean() })

/** An entry as it is put: what is not said of it is found or made. */
export const entryPutSchema = entryKeys.keys({ id }).custom(canonicalValue)
/** An entry as it is named. */
export const entryRefSchema = entryText()
export { id as idSchema, owner as ownerSchema }

export const upstreamVerdictSchema = Joi.object({
  id: id.required(),
  name: name.required(),
  header: headerName,
  text: Joi.string().min(1).max(200),
  before: Joi.string().trim().min(1).max(100),
})
  .xor('header', 'before')
  .without('text', 'before')
  .messages({ 'object.missing': '{{#label}} needs a header or a subject prefix' })

export const policySchema = Joi.object({
  $schema: Joi.string(),
  format: Joi.valid('sober-gate-policy').required(),
  formatVersion: Joi.valid(3).required(),
  version: Joi.number().integer().min(0).default(0),
  trust: Joi.object({
    ownDomains: Joi.array().items(Joi.string().max(255)).required(),
    relays: Joi.array()
      .items(Joi.object({ network: Joi.string().max(60).required(), authservId: Joi.string().max(255).required() }))
      .default([]),
    ownNetworks: Joi.array().items(Joi.string().max(60)).default([]),
    publicProviders: Joi.array().items(Joi.string().max(255)),
    upstreamVerdicts: Joi.array().items(upstreamVerdictSchema).unique('id').max(200),
    ownVerification: Joi.boolean(),
  }).required(),
  departments: Joi.array()
    .items(Joi.object({ id: id.required(), name: name.required(), parent: id }))
    .unique('id')
    .default([]),
  people: Joi.array()
    .items(
      Joi.object({
        id: id.required(),
        name: name.required(),
        addresses: Joi.array()
          .items(Joi.string().email({ tlds: false, allowUnicode: true }))
          .required(),
        departments: Joi.array().items(id).unique().default([]),
      }),
    )
    .unique('id')
    .default([]),
  quarantines: Joi.array()
    .items(quarantineSchema)
    .unique('id')
    .default([{ id: 'general', name: 'General', general: true }]),
  lists: Joi.array().items(listSchema).unique('id').default([]),
  assignments: Joi.array().items(assignmentSchema).unique('id').default([]),
  phraseSets: Joi.array().items(phraseSetSchema).unique('id').default([]),
  rules: Joi.array().items(ruleSchema).unique('id').default([]),
  thresholds: Joi.object({ likely: thresholdSchema, sure: thresholdSchema }).custom((t: NonNullable<Policy['thresholds']>, helpers) =>
    t.likely && t.sure && t.sure.at < t.likely.at ? helpers.message({ custom: '{{#label}}: “sure” must not be lower than “likely”' }) : t,
  ),
})

/**
 * Checks a policy read from outside, fills in what may be left out, and brings entries into canonical form.
 * Versions 1 and 2 of the format are read too. Everything that takes a policy calls this.
 */
export function readPolicy(value: unknown): { policy: Policy } | { problems: PolicyProblem[] } {
  const { value: policy, error } = policySchema.validate(upToDate(value), {
    abortEarly: false,
    convert: true,
    errors: { wrap: { label: '“”' } },
  })
  const problems = error?.details.map(d => ({ path: pointer(d.path), message: d.message })) ?? danglingReferences(policy as Policy)
  return problems.length ? { problems } : { policy: policy as Policy }
}

function upToDate(value: unknown): unknown {
  const version = typeof value === 'object' && value !== null && 'formatVersion' in value ? value.formatVersion : null
  const second = version === 1 ? fromVersion1(value) : value
  return version === 1 || version === 2 ? fromVersion2(second) : value
}

function pointer(path: (string | number)[]): string {
  return path.map(p => `/${String(p).replace(/~/g, '~0').replace(/\//g, '~1')}`).join('')
}
