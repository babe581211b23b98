import { makeAddress } from '../address'
import { entryCatches, entryKindOf, type EntryKind } from '../kinds'
import { buildEntryTable, type EntryTable } from '../lookup'
import { canVerifySenders, countsOf, refersToList, ruleStops, type Assignment, type Entry, type Policy } from '../policy'
import { counted, dayWords } from '../wording'
import { checkUse } from './unused'
import { noSuchMail } from './accepted'
import { notConfirmed } from './not-confirmed'
import type { CheckContext, Finding, FindingKind } from './types'

// Only what stands among the exceptions is asked for.
const NOBODY = { none: [] }
const SOON = 7 * 24 * 60 * 60 * 1000
/** Of one kind on one list so many are told one by one. */
const MAX_ALIKE = 1000

type Listed = Pick<Entry, 'id' | 'kind' | 'value' | 'expires'>

/** What one entry is held against. */
interface Around {
  policy: Policy
  context: CheckContext
  table: EntryTable
  /** Number of its list in the policy. */
  list: number
  assignments: Assignment[]
  /** A rule that stops asks the list whom to exempt. */
  asked: boolean
  /** By number of another list: how its owner, who also allows this one, blocks with it. */
  blocking: Map<number, Assignment>
}

type FindingParts = [kind: FindingKind, evidence: string, fix: string, assignment?: string]

/** What is questionable in the entries of the lists, by how the lists are used. */
export function checkLists(policy: Policy, context: CheckContext): Finding[] {
  const table = context.entries ?? buildEntryTable(policy.lists.flatMap((l, list) => l.entries.map(entry => ({ list, entry }))))
  const byList = table.byList()
  return policy.lists.flatMap((list, number) => {
    const around = aroundOf(policy, context, table, number)
    return [
      ...checkAssignments(list, around),
      ...checkEntries(
        list,
        (byList.get(number) ?? []).map(i => table.entry(i)),
        around,
      ),
    ]
  })
}

function aroundOf(policy: Policy, context: CheckContext, table: EntryTable, number: number): Around {
  const list = policy.lists[number]!
  const assignments = policy.assignments.filter(b => b.list === list.id && b.state !== 'disabled')
  const asked = policy.rules.some(r => r.state !== 'disabled' && refersToList({ when: NOBODY, except: r.except }, list.id) && ruleStops(r))
  const blocking = new Map<number, Assignment>()
  for (const allow of assignments.filter(b => b.side === 'allow')) {
    const against = policy.assignments.filter(
      b =>
        b.side === 'block' &&
        b.state === 'enabled' &&
        b.owner === allow.owner &&
        (b.direction ?? 'inbound') === (allow.direction ?? 'inbound'),
    )
    for (const b of against) {
      const other = policy.lists.findIndex(l => l.id === b.list && l.enabled)
      if (other >= 0) blocking.set(other, b)
    }
  }
  return { policy, context, table, list: number, assignments, asked, blocking }
}

function checkAssignments({ id, name }: { id: string, name: string }, { assignments, policy, context }: Around): Finding[] {
  return assignments.flatMap((b): Finding[] => {
    const about = { clause: { kind: 'list' as const, id, name, user: b.owner }, about: { assignment: b.id } }
    const lapsed = notConfirmed(b.stop, 'the list last grew')
    // Where nothing is verified, to count verified senders only would be to allow nobody.
    const lax = b.side === 'allow' && b.direction !== 'outbound' && countsOf(b) !== 'verified' && canVerifySenders(policy)
    const none = b.state === 'disabled' ? null : noSuchMail(b.direction, context)
    return [
      ...(none ? [{ ...about, ...none }] : []),
      ...(lapsed ? [{ kind: 'not confirmed' as const, ...about, ...lapsed }] : []),
      ...(lax ? [{ kind: 'counts even if not verified' as const, ...about, ...LAX }] : []),
    ]
  })
}

/** What is said of whatever counts on a From that nothing verified. */
export const LAX = {
  evidence: 'it also counts for senders that are not verified, and anyone can write a From',
  fix: 'Let it count for verified senders only.',
}

function checkEntries({ id, name }: { id: string, name: string }, entries: Iterable<Listed>, around: Around): Finding[] {
  const out: Finding[] = []
  const alike = new Map<FindingKind, number>()
  for (const entry of entries) {
    for (const [kind, evidence, fix, assignment] of checkEntry(entry, around)) {
      const before = alike.get(kind) ?? 0
      alike.set(kind, before + 1)
      if (before >= MAX_ALIKE) continue
      const about = { entry: { kind: entry.kind, value: entry.value }, ...(assignment === undefined ? {} : { assignment }) }
      out.push({ kind, clause: { kind: 'list', id, name, entry: entry.id }, evidence, fix, about })
    }
  }
  for (const [kind, n] of alike) {
    if (n > MAX_ALIKE)
      out.push({
        kind,
        clause: { kind: 'list', id, name },
        evidence: `${counted(n - MAX_ALIKE, 'more entry', 'more entries')} with the same finding`,
        fix: 'Fix the entries above first.',
      })
  }
  return out
}

function* checkEntry(entry: Listed, around: Around): Generator<FindingParts> {
  const { policy, context } = around
  const wider = widerEntry(entry, around)
  if (wider) yield ['entry covered by a wider one', `${shown(wider)} on the same list already includes it`, `Remove ${shown(entry)}.`]
  const wide = entryKindOf(entry.kind).doubt(entry.value)
  if (wide) yield ['wide network', wide, 'Enter the smaller networks that you need.']
  if (entry.expires) {
    const left = Date.parse(entry.expires) - Date.parse(context.now)
    if (left <= 0) yield ['expired', `it expired on ${dayWords(entry.expires, 'UTC')}`, `Remove ${shown(entry)}, or set a new expiry date.`]
    else if (left <= SOON && around.asked)
      yield [
        'exception expires soon',
        `it expires on ${dayWords(entry.expires, 'UTC')}; from then on, rules no longer except this sender`,
        'Set a later expiry date, or none.',
      ]
  }
  for (const assignment of around.assignments.filter(b => b.side === 'allow')) {
    const counts = countsOf(assignment)
    const nameless = !entryKindOf(entry.kind).verifiable(entry.value)
    if (counts === 'verified' && nameless)
      yield [
        'entry has no effect',
        `only verified senders count, and ${named(entry)} names no domain that could be verified, so it allows no sender`,
        'Enter addresses or domains.',
      ]
    else if (counts === 'verified' && !canVerifySenders(policy))
      yield [
        'entry has no effect',
        'only verified senders count, and no trusted relay that verifies senders is configured',
        'Add the relay in Settings.',
      ]
    else if (counts !== 'verified' && isPublic(entry, policy))
      yield [
        'counts even if not verified',
        `anyone can have a mailbox at ${entry.value.split('@').pop()}, and the list counts even if the sender is not verified`,
        'Let the list count for verified senders only, or enter the single address.',
        assignment.id,
      ]
    else if (counts === 'any' && policy.trust.ownDomains.some(d => catchesDomain(entry, d)))
      yield [
        'counts even if not verified',
        `${shown(entry)} is one of your own domains, which forgers often use`,
        'Own domains count only when verified in any case. Remove the entry.',
        assignment.id,
      ]
  }
  const blocked = blockedToo(entry, around)
  if (blocked)
    yield [
      'allowed and blocked',
      `${blocked}, for the same recipients; the block takes precedence`,
      `Remove ${shown(entry)} from one of the two lists.`,
    ]
  for (const text of unused(context, entry.id)) yield ['unused', text, `Remove ${shown(entry)}.`]
}

function unused(context: CheckContext, id: string): string[] {
  const out: string[] = []
  checkUse(context, id, text => out.push(text))
  return out
}

function blockedToo(entry: Listed, { policy, table, blocking }: Around): string | null {
  let on: string | null = null
  if (blocking.size) {
    table.findEqual(entry, (i) => {
      const list = table.listOf(i)
      if (blocking.has(list)) on ??= `${shown(entry)} is also blocked by list “${policy.lists[list]!.name}”`
    })
  }
  return on
}

function widerEntry(entry: Listed, { table, list }: Around): Listed | null {
  for (const { kind, value } of entryKindOf(entry.kind).wider(entry.value)) {
    let there = false
    table.findEqual({ kind: kind as EntryKind, value }, (i) => {
      if (table.listOf(i) === list) there = true
    })
    if (there) return { id: '', kind: kind as EntryKind, value }
  }
  return null
}

function isPublic(entry: Listed, { trust }: Policy): boolean {
  return (trust.publicProviders ?? []).includes(entry.value) && entryKindOf(entry.kind).domain(entry.value) === entry.value
}

function named(entry: Listed): string {
  return entry.kind === 'everyone' ? 'the entry for everyone' : shown(entry)
}

function catchesDomain(entry: Listed, domain: string): boolean {
  return (
    entryCatches(entry, { address: makeAddress(`x@${domain}`), listId: null, client: null }) ||
    entryKindOf(entry.kind).domain(entry.value) === domain
  )
}

function shown(entry: Pick<Entry, 'kind' | 'value'>): string {
  return entry.kind === 'domainAndSubdomains' ? `${entry.value} and its subdomains` : entry.value || entry.kind
}
