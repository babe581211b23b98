import { compilePolicy, entryCatches, groupMembers, hasOpenDomain, isRaised, phraseText, readPolicy, ruleStops, type Condition, type Entry, type List, type Policy, type PolicyProblem, type Rule } from '../policy'
import { makeAddress } from '../address'
import { phraseKeys } from '../text'
import { wakersOf } from '../decide'

export type FindingKind =
  | 'can never match' | 'always ended earlier' | 'covered by an earlier rule' | 'entry covered by a wider one' | 'phrase inside another' | 'entry can never count'
  | 'counts unverified' | 'exception about to expire' | 'expired' | 'erase without watching first' | 'network wider than /16' | 'always awake' | 'widens by absence' | 'phrase too broad' | 'unused for long'

/** Something about a policy that somebody should look at. */
export interface Finding {
  kind: FindingKind
  /** The clause: a rule, or a list with the entry. */
  clause: { kind: 'rule' | 'list' | 'phrase set', id: string, name: string, entry?: string }
  /** What was seen. */
  evidence: string
  /** What would mend it, in a sentence. */
  mend: string
}

/** What the checks may know besides the policy. */
export interface CheckContext {
  /** ISO 8601 instant. */
  now: string
  /** By clause or entry id: when it last matched; left out, nothing is said about what is unused. */
  lastHits?: ReadonlyMap<string, string | null>
  /** By phrase: hits among wanted copies, and how many wanted copies there are. */
  wantedHits?: { byPhrase: ReadonlyMap<string, number>, wanted: number }
}

const DAY = 24 * 60 * 60 * 1000
const SOON = 7 * DAY
const UNUSED = 180 * DAY
const TOO_BROAD = 1 / 50
// Domains at which anybody can have a mailbox; the installation's own list can be longer.
const PUBLIC_PROVIDERS = new Set(['post-box.test', 'letterpost.test', 'freemail.example', 'webpost.example'])

/** Everything that the checks find in a policy, in the order of its clauses. */
export function checkPolicy(policy: Policy, context: CheckContext): Finding[] {
  return [...policy.lists.flatMap(list => checkList(list, policy, context)), ...policy.rules.flatMap(rule => checkRule(rule, policy, context)), ...checkOrder(policy)]
}

/** Reads a policy from outside and checks it: what is wrong with its form, else what is questionable in it. */
export function checkText(value: unknown, context: CheckContext): { problems: PolicyProblem[] } | { findings: Finding[] } {
  const read = readPolicy(value)
  return 'problems' in read ? { problems: read.problems } : { findings: checkPolicy(read.policy, context) }
}

function checkList(list: List, policy: Policy, context: CheckContext): Finding[] {
  const out: Finding[] = []
  const add = (kind: FindingKind, entry: Entry, evidence: string, mend: string) => out.push({ kind, clause: { kind: 'list', id: list.id, name: list.name, entry: entry.id }, evidence, mend })
  const bindings = policy.bindings.filter(b => b.list === list.id && b.state !== 'off')
  const asked = policy.rules.some(r => r.state !== 'off' && r.except.some(c => asks(c, list.id)) && ruleStops(r))
  const domains = new Map(list.entries.filter(e => e.kind === 'domain' || e.kind === 'domain and below').map(e => [`${e.kind} ${e.value}`, e]))
  for (const entry of list.entries) {
    const wider = widerEntry(entry, domains)
    if (wider) add('entry covered by a wider one', entry, `${shown(wider)} on the same list catches it already`, `Take ${shown(entry)} out.`)
    if (entry.kind === 'network' && isWide(entry.value)) add('network wider than /16', entry, `${entry.value} holds more than 65,536 addresses`, 'Name the networks that are really meant.')
    if (entry.expires) {
      const left = Date.parse(entry.expires) - Date.parse(context.now)
      if (left <= 0) add('expired', entry, `it expired on ${entry.expires.slice(0, 10)}`, `Take ${shown(entry)} out, or give it a new date.`)
      else if (left <= SOON && asked) add('exception about to expire', entry, `it expires on ${entry.expires.slice(0, 10)}; then rules that spare this sender no longer do`, 'Give it a later date, or none.')
    }
    const allows = bindings.filter(b => b.side === 'allow')
    for (const binding of allows) {
      const counts = binding.counts ?? (binding.owner.startsWith('person:') ? 'not fail' : 'pass')
      const nameless = entry.kind === 'words' || entry.kind === 'everyone' || (entry.kind === 'pattern' && hasOpenDomain(entry.value))
      if (counts === 'pass' && nameless) add('entry can never count', entry, `${shown(entry)} names no domain that could be verified`, 'Write the address or the domain.')
      else if (counts === 'pass' && !policy.trust.relays.length) add('entry can never count', entry, 'no relay that verifies senders is configured', 'Configure the relay, or let the list count unless authentication fails.')
      else if (counts !== 'pass' && isPublic(entry)) add('counts unverified', entry, `anybody can have a mailbox at ${entry.value.split('@').pop()}, and the list counts without a pass`, 'Name the single address, and let it count only when verified.')
      else if (counts === 'any' && policy.trust.ownDomains.some(d => catchesDomain(entry, d))) add('counts unverified', entry, `${shown(entry)} is one of our own domains, which is what forgers write`, 'It counts only when verified all the same; take it out.')
    }
    unused(context, entry.id, text => add('unused for long', entry, text, `Take ${shown(entry)} out.`))
  }
  return out
}

function checkRule(rule: Rule, policy: Policy, context: CheckContext): Finding[] {
  if (rule.state === 'off') return []
  const out: Finding[] = []
  const add = (kind: FindingKind, evidence: string, mend: string) => out.push({ kind, clause: { kind: 'rule', id: rule.id, name: rule.name }, evidence, mend })
  const never = whyNever(rule.when, policy)
  if (never) add('can never match', never, 'Change the condition, or delete the rule.')
  if (rule.expires && Date.parse(rule.expires) <= Date.parse(context.now)) add('expired', `it expired on ${rule.expires.slice(0, 10)}`, 'Delete it, or give it a new date.')
  const stop = rule.claims.find(c => 'stop' in c)
  if (rule.state === 'acting' && stop && 'stop' in stop && (stop.stop.to === 'erase' || stop.stop.to === 'drop') && !(context.lastHits?.get(`watched ${rule.id}`))) add('erase without watching first', `it may ${stop.stop.to} mail for good, and has never watched`, 'Let it watch for a while first.')
  for (const condition of [rule.when, ...rule.except]) {
    for (const inner of walk(condition)) {
      if ('phrases' in inner && inner.phrases) {
        const texts = inner.phrases.map(phraseText)
        for (const [a, b] of nested(texts)) add('phrase inside another', `“${a}” stands in “${b}”, so the longer one adds nothing`, `Take “${b}” out.`)
        for (const text of texts) {
          const hits = context.wantedHits?.byPhrase.get(text) ?? 0
          if (context.wantedHits && hits / Math.max(1, context.wantedHits.wanted) > TOO_BROAD) add('phrase too broad', `“${text}” stands in ${hits} of ${context.wantedHits.wanted} wanted copies`, 'Make it longer, or give it company.')
        }
      }
    }
  }
  for (const condition of rule.except) for (const inner of walk(condition)) {
    if ('senderOn' in inner && policy.lists.find(l => l.id === inner.senderOn)?.on === false) add('widens by absence', `its exception asks a list that is switched off, so it spares nobody`, 'Switch the list on, or take the exception out.')
  }
  for (const inner of walk(rule.when)) if ('none' in inner) for (const member of inner.none) for (const leaf of walk(member)) {
    if ('senderOn' in leaf && policy.lists.find(l => l.id === leaf.senderOn)?.on === false) add('widens by absence', 'under “none” it asks a list that is switched off, so it catches more than before', 'Switch the list on, or take it out.')
  }
  unused(context, rule.id, text => add('unused for long', text, 'Switch it off, or delete it.'))
  return out
}

function checkOrder(policy: Policy): Finding[] {
  const out: Finding[] = []
  const compiled = compilePolicy(policy)
  for (const rule of compiled.rules) {
    if (!wakersOf(rule) && !('every' in rule.rule.when)) out.push({ kind: 'always awake', clause: { kind: 'rule', id: rule.rule.id, name: rule.rule.name }, evidence: 'every message makes it look, since nothing rare in it must be there', mend: 'Add a phrase or a sender to it, if one is always there.' })
  }
  const acting = compiled.rules.filter(r => r.rule.state === 'acting')
  acting.forEach((later, i) => {
    for (const earlier of acting.slice(0, i)) {
      if (earlier.tier !== later.tier || isRaised(earlier.rule) !== isRaised(later.rule) || (earlier.rule.direction ?? 'inbound') !== (later.rule.direction ?? 'inbound') || earlier.rule.except.length || earlier.rule.expires || !covers(earlier.rule.when, later.rule.when)) continue
      const clause = { kind: 'rule' as const, id: later.rule.id, name: later.rule.name }
      if (earlier.rule.end) out.push({ kind: 'always ended earlier', clause, evidence: `“${earlier.rule.name}” matches whatever it matches, and ends`, mend: `Put it before “${earlier.rule.name}”, or delete it.` })
      else if (ruleStops(earlier.rule) && ruleStops(later.rule)) {
        const same = JSON.stringify(earlier.rule.claims.find(c => 'stop' in c)) === JSON.stringify(later.rule.claims.find(c => 'stop' in c))
        out.push({ kind: 'covered by an earlier rule', clause, evidence: `“${earlier.rule.name}” catches all that it catches, ${same ? 'with the same outcome' : 'with another outcome, and comes first'}`, mend: same ? 'Delete it.' : `Put it before “${earlier.rule.name}”, or make one of the two narrower.` })
      }
      break
    }
  })
  return out
}

/** True if whatever meets `narrow` surely meets `wide`: the same, fewer demands, or more phrases for the same place. */
function covers(wide: Condition, narrow: Condition): boolean {
  if ('every' in wide || JSON.stringify(wide) === JSON.stringify(narrow)) return true
  if ('all' in narrow && !('all' in wide)) return narrow.all.some(m => covers(wide, m))
  if ('all' in wide) return wide.all.every(m => covers(m, narrow))
  if ('any' in wide) return wide.any.some(m => covers(m, narrow))
  if ('any' in narrow) return narrow.any.every(m => covers(wide, m))
  if ('phrases' in wide && wide.phrases && 'phrases' in narrow && narrow.phrases) {
    const { phrases: a, ...lookA } = wide
    const { phrases: b, ...lookB } = narrow
    return JSON.stringify(lookA) === JSON.stringify(lookB) && lookA.minimum === undefined && b.every(p => a.some(q => JSON.stringify(p) === JSON.stringify(q)))
  }
  if ('sender' in wide && 'sender' in narrow && wide.counts === narrow.counts) {
    return narrow.sender.kind === 'address' && entryCatches(wide.sender, { address: makeAddress(narrow.sender.value), listId: null, client: null })
  }
  return false
}

function whyNever(c: Condition, policy: Policy): string | null {
  if ('all' in c) {
    const froms = c.all.flatMap(m => 'sender' in m && m.sender.kind === 'address' ? [m.sender.value] : [])
    if (new Set(froms).size > 1) return `one message would have to come from ${froms.join(' and ')}`
    const bounds = c.all.flatMap(m => 'size' in m ? [m.size] : [])
    if (Math.max(...bounds.map(b => b.atLeast ?? 0)) > Math.min(...bounds.map(b => b.atMost ?? Infinity))) return 'its sizes exclude each other'
    return c.all.map(m => whyNever(m, policy)).find(w => w !== null) ?? null
  }
  if ('any' in c) {
    const why = c.any.map(m => whyNever(m, policy))
    return why.every(w => w !== null) ? why[0] ?? null : null
  }
  if ('senderOn' in c) {
    const list = policy.lists.find(l => l.id === c.senderOn)
    if (!list?.on) return `the list ${list?.name ?? c.senderOn} is switched off`
    return list.entries.length ? null : `nobody is on the list ${list.name}`
  }
  if ('set' in c && c.set !== undefined) return policy.phraseSets.find(s => s.id === c.set)?.phrases.length ? null : 'its phrase set is empty'
  if ('size' in c && (c.size.atLeast ?? 0) > (c.size.atMost ?? Infinity)) return 'no size is at least more than at most'
  if ('date' in c && c.date.before && c.date.after && c.date.before <= c.date.after) return 'it asks for a date before its begin'
  if ('phrases' in c && c.phrases) {
    const weight = c.phrases.reduce<number>((sum, p) => sum + (typeof p === 'string' ? 1 : p.weight ?? 1), 0)
    if (c.minimum !== undefined && weight < c.minimum) return `all its phrases together weigh ${weight}, less than ${c.minimum}`
  }
  return null
}

function* walk(c: Condition): Generator<Condition> {
  yield c
  for (const m of groupMembers(c) ?? []) yield* walk(m)
}

function asks(c: Condition, list: string): boolean {
  return [...walk(c)].some(x => 'senderOn' in x && x.senderOn === list)
}

function nested(texts: readonly string[]): [string, string][] {
  const keys = texts.map(t => ({ text: t, key: ` ${phraseKeys(t, 'plain')[0]?.key ?? ''} ` }))
  const out: [string, string][] = []
  if (keys.length > 500) return out // a matter of its own for a set of that size
  for (const a of keys) for (const b of keys) if (a !== b && b.key.length > a.key.length && b.key.includes(a.key)) out.push([a.text, b.text])
  return out
}

function widerEntry(entry: Entry, domains: ReadonlyMap<string, Entry>): Entry | null {
  const domain = entry.kind === 'address' ? entry.value.slice(entry.value.lastIndexOf('@') + 1) : entry.kind === 'domain' || entry.kind === 'domain and below' ? entry.value : null
  if (domain === null) return null
  const labels = domain.split('.')
  if (entry.kind === 'address' && domains.has(`domain ${domain}`)) return domains.get(`domain ${domain}`)!
  for (let i = entry.kind === 'domain and below' ? 1 : 0; i < labels.length; i++) {
    const wider = domains.get(`domain and below ${labels.slice(i).join('.')}`)
    if (wider && wider !== entry) return wider
  }
  return null
}

function isWide(network: string): boolean {
  const [address, length] = network.split('/') as [string, string]
  return Number(length) < (address.includes(':') ? 112 : 16)
}

function isPublic(entry: Entry): boolean {
  return (entry.kind === 'domain' || entry.kind === 'domain and below') && PUBLIC_PROVIDERS.has(entry.value)
}

function catchesDomain(entry: Entry, domain: string): boolean {
  return entryCatches(entry, { address: makeAddress(`x@${domain}`), listId: null, client: null }) || (entry.kind === 'address' && entry.value.endsWith(`@${domain}`))
}

function unused({ lastHits, now }: CheckContext, id: string, add: (text: string) => void): void {
  const last = lastHits?.get(id)
  if (last === undefined) return
  if (last === null) add('it has never matched')
  else if (Date.parse(now) - Date.parse(last) > UNUSED) add(`it last matched on ${last.slice(0, 10)}`)
}

function shown(entry: Pick<Entry, 'kind' | 'value'>): string {
  return entry.kind === 'domain and below' ? `${entry.value} and below` : entry.value || entry.kind
}
