import type { CustomHelpers, ErrorReport } from 'joi'
import {
  canonicalEntry,
  EFFECT_KINDS,
  effectKindOf,
  ENTRY_KINDS,
  FACT_NAMES,
  factSchemas,
  kindOfFact,
  type EntryKind,
  type EntryText,
} from '../kinds'
import { compileExpression } from './expressions'
import { instant, Joi } from './joi'
import { departmentIn, isPersonal, personIn } from './owners'
import { COUNTS, HAZARDS, groupMembers, isFact, PHRASE_PLACES, STATES, STOPS, type Condition, type Policy, type Rule } from './types'

const id = Joi.string()
  .trim()
  .pattern(/^[\w.:-]{1,80}$/)
  .messages({ 'string.pattern.base': '{{#label}} may hold letters, digits, “.”, “:”, “_” and “-” only, 80 at most' })
const name = Joi.string().trim().min(1).max(120)
const text = (most: number) => Joi.string().max(most)
const owner = Joi.string()
  .pattern(/^(organisation|(department|person):[\w.:-]{1,80})$/)
  .messages({ 'string.pattern.base': '{{#label}} is “organisation”, “department:ID” or “person:ID”' })
const state = Joi.string().valid(...STATES)
const direction = Joi.string().valid('inbound', 'outbound', 'internal')
const counts = Joi.string().valid(...COUNTS)

const MOST_PHRASES = 5000
export const MOST_ENTRIES = 1_000_000
const MOST_NESTING = 5

const headerName = Joi.string()
  .lowercase()
  .pattern(/^[!-9;-~]{1,76}$/)
  .messages({ 'string.pattern.base': '{{#label}} is the name of a header, such as x-mailer' })

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

export const entrySchema = Joi.object({
  id: id.required(),
  ...entryTextKeys(),
  note: text(500).allow(''),
  expires: instant,
  addedAt: instant,
  addedBy: text(200),
}).custom(canonicalValue)

export const listSchema = Joi.object({
  id: id.required(),
  name: name.required(),
  owner: owner.required(),
  usualSide: Joi.string().valid('allow', 'block').required(),
  on: Joi.boolean().required(),
  entries: Joi.array().items(entrySchema).max(MOST_ENTRIES).unique('id').required(),
})

export const stopSchema = Joi.object({
  to: Joi.string()
    .valid(...STOPS)
    .required(),
  quarantine: Joi.when('to', { is: 'quarantine', then: id.required(), otherwise: Joi.forbidden() }),
  reply: Joi.when('to', { is: 'refuse', then: text(400), otherwise: Joi.forbidden() }),
  confirmed: Joi.when('to', { is: Joi.valid('erase', 'drop'), then: Joi.boolean(), otherwise: Joi.forbidden() }),
})

const hazards = Joi.array()
  .items(Joi.string().valid(...HAZARDS))
  .min(1)
  .unique()
// Must and an end for all are an administrator's word; a person has neither.
const MUST_MESSAGES = {
  'must.person': '“must” is set by an administrator, for the organisation or a department',
  'must.end': 'only a must rule may end for all',
}
function mustIsAllowed<T extends { owner: string, must?: boolean, end?: string }>(clause: T, helpers: CustomHelpers<T>): T | ErrorReport {
  const at = (code: keyof typeof MUST_MESSAGES, key: string) =>
    helpers.error(code, undefined, helpers.state.localize!([...(helpers.state.path ?? []), key]))
  if (clause.must && isPersonal(clause.owner)) return at('must.person', 'must')
  if (clause.end === 'all' && !clause.must) return at('must.end', 'end')
  return clause
}

export const bindingSchema = Joi.object({
  id: id.required(),
  list: id.required(),
  owner: owner.required(),
  side: Joi.string().valid('allow', 'block').required(),
  must: Joi.boolean(),
  state: state.required(),
  direction,
  stop: Joi.when('side', { is: 'block', then: stopSchema.required(), otherwise: Joi.forbidden() }),
  protect: Joi.when('side', { is: 'allow', then: hazards, otherwise: Joi.forbidden() }),
  counts: Joi.when('side', { is: 'allow', then: counts, otherwise: Joi.forbidden() }),
})
  .custom(mustIsAllowed)
  .messages(MUST_MESSAGES)

const phrase = Joi.string().trim().min(1).max(300)
const companion = Joi.object({
  phrases: Joi.array().items(phrase).min(1).max(200).required(),
  within: Joi.number().integer().min(0).max(1000),
})
const phraseItem = Joi.alternatives().try(
  phrase,
  Joi.object({ text: phrase.required(), weight: Joi.number().min(0).max(1000), near: companion }),
)
const phraseItems = Joi.array().items(phraseItem).max(MOST_PHRASES)
const place = Joi.string()
  .lowercase()
  .max(120)
  .pattern(new RegExp(`^(?:${PHRASE_PLACES.join('|')}|header:[!-9;-~]{1,76})$`))
  .messages({ 'string.pattern.base': `{{#label}} is none of ${PHRASE_PLACES.join(', ')}, header:NAME` })
const places = Joi.array().items(place).min(1).unique()
const group = Joi.array()
  .items(Joi.link('#condition'))
  .min(1)
  .max(200)
  .messages({ 'array.min': '{{#label}} holds nothing; “all of nothing” would match every message, so say every: true if that is meant' })

/** Conditions that are more than a question to one fact; each has its own way of being looked up. */
const STRUCTURES = ['all', 'any', 'none', 'sender', 'senderOn', 'phrases', 'set', 'expression']
const KINDS_OF_CONDITION = [...STRUCTURES, ...FACT_NAMES]
const without = (kinds: string[]) => KINDS_OF_CONDITION.filter(k => !kinds.includes(k))

export const conditionSchema = Joi.object({
  all: group,
  any: group,
  none: group,
  sender: entryText(),
  senderOn: id,
  phrases: phraseItems.min(1).messages({ 'array.min': '{{#label}} holds nothing: write at least one word or phrase' }),
  set: id,
  expression: Joi.string().min(1).max(1000).custom(isExpression),
  ...factSchemas({ Joi, instant, headerName, entryText }),
  counts,
  where: places,
  whole: Joi.boolean(),
  view: Joi.string().valid('plain', 'bare', 'undisguised'),
  minimum: Joi.number().greater(0).max(1_000_000),
  near: companion,
})
  .xor(...KINDS_OF_CONDITION)
  .without('counts', without(['sender', 'senderOn']))
  .without('where', without(['phrases', 'set', 'expression']))
  .without('whole', without(['phrases', 'set']))
  .without('view', without(['phrases', 'set']))
  .without('minimum', without(['phrases', 'set']))
  .without('near', without(['phrases', 'set']))
  .messages({
    'object.missing': `{{#label}} says nothing: it needs one of ${KINDS_OF_CONDITION.join(', ')}`,
    'object.xor': `{{#label}} says more than one thing: it takes one of ${KINDS_OF_CONDITION.join(', ')}`,
    'object.without': '{{#label}}: {{#main}} does not go with {{#peer}}',
  })
  .id('condition')

function isExpression(source: string, helpers: CustomHelpers<string>): string | ErrorReport {
  const read = compileExpression(source)
  return 'error' in read ? helpers.message({ custom: `{{#label}} is no RE2 expression: ${read.error}` }) : source
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
    to: Joi.string().valid('inbox', 'slow lane', 'folder', 'filed').required(),
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
  must: Joi.boolean(),
  raised: Joi.boolean(),
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
  .custom(mustIsAllowed)
  .messages(MUST_MESSAGES)

function nesting(rule: Rule, helpers: CustomHelpers<Rule>): Rule | ErrorReport {
  const depth = (c: Condition): number => 1 + Math.max(-1, ...(groupMembers(c) ?? []).map(depth))
  return [rule.when, ...rule.except].some(c => depth(c) > MOST_NESTING)
    ? helpers.message({ custom: `conditions are nested deeper than ${MOST_NESTING} groups` })
    : rule
}

function claimsAgree(claims: Policy['rules'][number]['claims'], helpers: CustomHelpers): typeof claims | ErrorReport {
  const count = (kind: string) => claims.filter(c => kind in c).length
  if (count('stop') && count('protect')) return helpers.message({ custom: 'a rule either stops a copy or protects it, not both' })
  for (const kind of ['stop', 'protect', 'place'])
    if (count(kind) > 1) return helpers.message({ custom: `a rule says “${kind}” once at most` })
  return claims
}

export const phraseSetSchema = Joi.object({
  id: id.required(),
  name: name.required().messages({ 'string.empty': 'a phrase set needs a name', 'any.required': 'a phrase set needs a name' }),
  owner: owner.required(),
  phrases: phraseItems.required(),
  minimum: Joi.number().greater(0).max(1_000_000),
})

const threshold = Joi.object({ at: Joi.number().min(-1000).max(1000).required(), stop: stopSchema.required() })

export const markSchema = Joi.object({
  id: id.required(),
  name: name.required(),
  header: headerName,
  text: Joi.string().min(1).max(200),
  before: Joi.string().trim().min(1).max(100),
})
  .xor('header', 'before')
  .without('text', 'before')
  .messages({ 'object.missing': '{{#label}} says neither a header nor what stands before the subject' })

export const policySchema = Joi.object({
  $schema: Joi.string(),
  format: Joi.valid('sober-gate-policy').required(),
  formatVersion: Joi.valid(1).required(),
  version: Joi.number().integer().min(0).default(0),
  trust: Joi.object({
    ownDomains: Joi.array().items(Joi.string().max(255)).required(),
    relays: Joi.array()
      .items(Joi.object({ network: Joi.string().max(60).required(), authservId: Joi.string().max(255).required() }))
      .default([]),
    ownNetworks: Joi.array().items(Joi.string().max(60)).default([]),
    publicProviders: Joi.array().items(Joi.string().max(255)),
    marks: Joi.array().items(markSchema).unique('id').max(200),
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
    .items(Joi.object({ id: id.required(), name: name.required(), general: Joi.boolean() }))
    .unique('id')
    .default([{ id: 'general', name: 'General', general: true }]),
  lists: Joi.array().items(listSchema).unique('id').default([]),
  bindings: Joi.array().items(bindingSchema).unique('id').default([]),
  phraseSets: Joi.array().items(phraseSetSchema).unique('id').default([]),
  rules: Joi.array().items(ruleSchema).unique('id').default([]),
  thresholds: Joi.object({ likely: threshold, sure: threshold }).custom((t: NonNullable<Policy['thresholds']>, helpers) =>
    t.likely && t.sure && t.sure.at < t.likely.at ? helpers.message({ custom: '{{#label}} has “sure” below “likely”' }) : t,
  ),
})

/** One thing that is wrong with a policy. */
export interface PolicyProblem {
  /** JSON Pointer (RFC 6901) to the value. */
  path: string
  message: string
}

/**
 * Checks a policy read from outside, fills in what may be left out, and brings entries into canonical form.
 * Every door that takes a policy calls this.
 */
export function readPolicy(value: unknown): { policy: Policy } | { problems: PolicyProblem[] } {
  const { value: policy, error } = policySchema.validate(value, { abortEarly: false, convert: true, errors: { wrap: { label: '“”' } } })
  const problems = error?.details.map(d => ({ path: pointer(d.path), message: d.message })) ?? danglingReferences(policy as Policy)
  return problems.length ? { problems } : { policy: policy as Policy }
}

/** References to a list, set, quarantine, department or person that is not there. */
export function danglingReferences(policy: Policy): PolicyProblem[] {
  const problems: PolicyProblem[] = []
  const ids = (things: { id: string }[]) => new Set(things.map(t => t.id))
  const [lists, sets, quarantines, departments, people] = [
    ids(policy.lists),
    ids(policy.phraseSets),
    ids(policy.quarantines),
    ids(policy.departments),
    ids(policy.people),
  ]
  const marks = ids(policy.trust.marks ?? [])
  const need = (known: Set<string>, wanted: string | undefined, what: string, path: string) => {
    if (wanted !== undefined && !known.has(wanted)) problems.push({ path, message: `there is no ${what} “${wanted}” in this policy` })
  }
  const needOwner = (owner: string, path: string) => {
    need(departments, departmentIn(owner) ?? undefined, 'department', path)
    need(people, personIn(owner) ?? undefined, 'person', path)
  }
  const needCondition = (c: Condition, path: string) => {
    if ('senderOn' in c) need(lists, c.senderOn, 'list', `${path}/senderOn`)
    if ('set' in c) need(sets, c.set, 'phrase set', `${path}/set`)
    if (isFact(c)) {
      const { kind, value } = kindOfFact(c)
      need(marks, kind.refers?.(value)?.mark, 'upstream mark', `${path}/${kind.name}`)
    }
    const key = 'all' in c ? 'all' : 'any' in c ? 'any' : 'none'
    groupMembers(c)?.forEach((m, i) => needCondition(m, `${path}/${key}/${i}`))
  }
  policy.departments.forEach((d, i) => need(departments, d.parent, 'department', `/departments/${i}/parent`))
  policy.people.forEach((p, i) => p.departments.forEach((d, j) => need(departments, d, 'department', `/people/${i}/departments/${j}`)))
  policy.lists.forEach((l, i) => needOwner(l.owner, `/lists/${i}/owner`))
  policy.bindings.forEach((b, i) => {
    needOwner(b.owner, `/bindings/${i}/owner`)
    need(lists, b.list, 'list', `/bindings/${i}/list`)
    need(quarantines, b.stop?.quarantine, 'quarantine', `/bindings/${i}/stop/quarantine`)
  })
  for (const [name, t] of Object.entries(policy.thresholds ?? {}))
    need(quarantines, t?.stop.quarantine, 'quarantine', `/thresholds/${name}/stop/quarantine`)
  policy.rules.forEach((r, i) => {
    needOwner(r.owner, `/rules/${i}/owner`)
    needCondition(r.when, `/rules/${i}/when`)
    r.except.forEach((c, j) => needCondition(c, `/rules/${i}/except/${j}`))
    r.claims.forEach((c, j) => {
      if ('stop' in c) need(quarantines, c.stop.quarantine, 'quarantine', `/rules/${i}/claims/${j}/stop/quarantine`)
    })
  })
  return problems
}

function pointer(path: (string | number)[]): string {
  return path.map(p => `/${String(p).replace(/~/g, '~0').replace(/\//g, '~1')}`).join('')
}
