import type { PolicyChange } from '../change'
import { entryWords, type EntryText } from '../kinds'
import { oneOf, quoted } from '../wording'
import { countsOf, HAZARDS, isPersonal, type Condition, type Counts, type List, type Owner, type Policy, type Stop } from '../policy'
import { quarantineName } from '../words'

/** What is to be of mail: to its recipient's inbox always, or kept away. */
export type Then = { to: 'inbox' } | { to: 'spam' | 'bin' | 'refuse' } | { to: 'quarantine', quarantine: string }

/** What somebody would have: these senders, these words, and what then. */
export interface Draft {
  /** Of whom it comes, any of them; empty is anybody, and then it needs words. */
  senders: EntryText[]
  /** What it says, any of these. */
  phrases: string[]
  /** Its phrases are also found in obfuscated spellings. */
  obfuscated?: boolean
  /** What else has to hold, and how it is called: it makes a rule. */
  also?: { conditions: Condition[], words: string }
  then: Then
  owner: Owner
  /** For which senders it counts that are let in: verified ones, unless another choice was made. */
  counts?: Counts
  /** A rule, also where an entry on a list would do. */
  asRule?: boolean
  /** It only records what it would do. */
  watch?: boolean
}

/** What must be known of a policy; of its rules the names that are taken. */
type DraftPolicy = Pick<Policy, 'lists' | 'assignments' | 'quarantines'> & { rules: readonly { name: string, owner: Owner }[] }

/** The names of the lists to which senders go that are blocked to spam, or always let in. */
export const BLOCKED = 'Blocked'
export const ALWAYS_IN = 'Always in'

/**
 * The changes by which a draft comes true. Senders alone go to the owner's list of that purpose, which is made where it is
 * missing; with words, or only watched, or where a rule is asked for, they make a rule.
 * @param id makes a new id each time, for a list and its use
 */
export function draftChanges(policy: DraftPolicy, draft: Draft, id: () => string): PolicyChange[] {
  const { senders, phrases, also, asRule = false, watch = false } = draft
  if (!senders.length && !phrases.length && !also) return []
  const isRule = phrases.length > 0 || also !== undefined || watch || asRule
  return isRule ? [{ type: 'put', kind: 'rule', value: ruleOf(policy, draft) }] : listChanges(policy, draft, id)
}

function listChanges(policy: DraftPolicy, { senders, then, owner, counts }: Draft, id: () => string): PolicyChange[] {
  const name = listNameFor(policy, then)
  const side = then.to === 'inbox' ? 'allow' : 'block'
  const stop = stopOf(then)
  const does = (l: List) =>
    policy.assignments.some(
      b =>
        b.list === l.id && b.owner === owner && b.side === side && b.state === 'enabled' && !b.mandatory &&
        (side === 'block' || countsOf(b) === (counts ?? 'verified')) &&
        (b.direction ?? 'inbound') === 'inbound' &&
        (!stop || (b.stop?.to === stop.to && b.stop.quarantine === stop.quarantine)),
    )
  const own = policy.lists.filter(l => l.owner === owner && l.enabled && l.name.startsWith(name))
  const there = own.find(does)
  if (there) return [{ type: 'put', kind: 'entries', list: there.id, entries: senders }]
  const list = id()
  const counting = counts && counts !== 'verified' ? { counts } : {}
  return [
    {
      type: 'put', kind: 'list',
      value: { id: list, name: freeName(name, policy.lists.filter(l => l.owner === owner)), owner, usualSide: side, enabled: true },
    },
    { type: 'put', kind: 'entries', list, entries: senders },
    { type: 'put', kind: 'assignment', value: { id: id(), list, owner, side, state: 'enabled', ...(stop ? { stop } : counting) } },
  ]
}

function listNameFor(policy: Pick<Policy, 'quarantines'>, then: Then): string {
  switch (then.to) {
    case 'inbox':
      return ALWAYS_IN
    case 'spam':
      return BLOCKED
    case 'bin':
      return `${BLOCKED}, to the bin`
    case 'refuse':
      return `${BLOCKED}, refused`
    case 'quarantine':
      return `${BLOCKED}, held in ${quarantineName(policy, then.quarantine)}`
  }
}

function stopOf(then: Then): Stop | null {
  return then.to === 'inbox' ? null : then
}

function freeName(name: string, things: readonly { name: string }[]): string {
  const taken = new Set(things.map(t => t.name.toLowerCase()))
  for (let n = 1; ; n++) {
    const tried = n === 1 ? name : `${name} ${n}`
    if (!taken.has(tried.toLowerCase())) return tried
  }
}

function ruleOf(policy: DraftPolicy, { senders, phrases, obfuscated = false, also, then, owner, watch, counts }: Draft) {
  const stop = stopOf(then)
  const counting = !stop && counts && counts !== 'verified' ? { counts } : {}
  const conditions: Condition[] = [
    ...(senders.length ? [{ sender: senders.length === 1 ? senders[0]! : senders, ...counting }] : []),
    ...(phrases.length ? [{ phrases, ...(obfuscated ? { view: 'obfuscated' as const } : {}) }] : []),
    ...(also?.conditions ?? []),
  ]
  return {
    name: freeName(draftName({ senders, phrases, also, then }), policy.rules.filter(r => r.owner === owner)),
    owner,
    // Evidence that is held is not for everybody to soften.
    ...(then.to === 'quarantine' && !isPersonal(owner) ? { mandatory: true } : {}),
    state: watch ? ('monitor' as const) : ('enabled' as const),
    when: conditions.length === 1 ? conditions[0]! : { all: conditions },
    except: [],
    claims: stop ? [{ stop }] : [{ protect: [...HAZARDS] }, { place: { to: 'inbox' as const } }],
  }
}

const MAX_NAME = 80

/** A name for what a draft makes, from what it says. */
export function draftName({ senders, phrases, also, then }: Pick<Draft, 'senders' | 'phrases' | 'also' | 'then'>): string {
  const what = phrases.length ? oneOf(phrases.map(quoted), 'or', 2) : (also?.words ?? '')
  const who = senders.length ? oneOf(senders.map(entryWords), 'or', 2) : ''
  const name = what && who ? `${what} from ${who}` : what || who
  const whole = then.to === 'inbox' ? `${name} to Inbox` : name
  return whole.length > MAX_NAME ? `${whole.slice(0, MAX_NAME - 1)}…` : whole
}
