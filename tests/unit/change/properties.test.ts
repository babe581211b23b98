import fc from 'fast-check'
import isSame from 'fast-deep-equal'
import { describe, expect, it } from 'vitest'
import { decide, IndexedPolicy, refersToList, refersToSet, type List, type Policy } from '#core'
import {
  apply,
  changeWords,
  completed,
  differences,
  inverse,
  readChanges,
  touches,
  widens,
  type PolicyChange,
} from '#core/change'
import { arbitraryPolicy } from '../../support/arbitrary'
import { NOW, OURS } from '../../support/build'
import { arbitraryParsed } from '../../support/parsed'

const RUNS = { seed: 8, numRuns: 600 }

/** As the store has it: an entry of a kind and value once on a list, and the same use of a list once. */
function once(policy: Policy): Policy {
  const unique = (l: List) => ({
    ...l,
    entries: [
      ...new Map(
        l.entries.map(e => [
          `${e.kind} ${e.value}`,
          {
            ...e,
            addedAt: NOW,
            addedBy: 'Oskar',
            id: Buffer.from(`${l.id} ${e.kind} ${e.value}`).toString('base64url').slice(0, 80),
          },
        ]),
      ).values(),
    ],
  })
  const use = (b: Policy['bindings'][number]) => `${b.list} ${b.owner} ${b.side} ${b.direction ?? 'inbound'} ${b.state}`
  const bindings = [...new Map(policy.bindings.map(b => [use(b), b])).values()]
  return { ...policy, bindings, lists: policy.lists.map(unique) }
}

/** What two policies must have alike to be the same: the order of rules of one owner, and of nothing else. */
function sameness(policy: Policy) {
  const sorted = <T extends { id: string }>(things: readonly T[]) => [...things].sort((a, b) => (a.id < b.id ? -1 : 1))
  return {
    lists: sorted(policy.lists).map(l => ({ ...l, entries: sorted(l.entries) })),
    bindings: sorted(policy.bindings),
    phraseSets: sorted(policy.phraseSets),
    quarantines: sorted(policy.quarantines),
    rules: ['organisation', 'department:accounts', 'department:office', 'person:oskar'].map(o =>
      policy.rules.filter(r => r.owner === o),
    ),
    thresholds: Object.entries(policy.thresholds ?? {}).filter(([, t]) => t !== undefined),
  }
}

/** Changes to one policy, taken from what another has under the same ids. */
const drawn: fc.Arbitrary<{ before: Policy, changes: PolicyChange[] }> = fc
  .tuple(
    arbitraryPolicy.map(once),
    arbitraryPolicy.map(once),
    fc.array(fc.tuple(fc.nat(9), fc.nat(99), fc.nat(99)), { minLength: 1, maxLength: 4 }),
  )
  .map(([before, other, picks]) => ({
    before,
    changes: picks.flatMap(([what, a, b]) => pick(before, other, [what, a, b])),
  }))

function pick(before: Policy, other: Policy, [what, a, b]: readonly [number, number, number]): PolicyChange[] {
  const of = <T>(things: readonly T[], n: number): T[] => (things.length ? [things[n % things.length]!] : [])
  const entriesOf = (policy: Policy) => of(policy.lists, a).flatMap(l => l.entries.slice(0, 1 + (b % 3)))
  switch (what) {
    case 0:
      return of(other.rules, a).map(rule => ({
        put: 'rule',
        rule: { ...rule, name: b % 9 ? rule.name : `other ${b}` },
      }))
    case 1:
      return of(other.bindings, a).map(use => ({ put: 'use', use }))
    case 2:
      return of(other.lists, a).map(({ entries, ...list }) => ({
        put: 'list',
        list: b % 2 ? list : { ...list, entries },
      }))
    case 3:
      return of(other.phraseSets, a).map(set => ({ 'put': 'phrase set', 'phrase set': set }))
    case 4: {
      const entries = entriesOf(other).map(e => (b % 2 ? e : { kind: e.kind, value: e.value, note: 'n' }))
      return entries.length ? [{ put: 'entries', list: of(before.lists, a)[0]!.id, entries }] : []
    }
    case 5: {
      const entries = entriesOf(before).map(({ kind, value }) => ({ kind, value }))
      return entries.length ? [{ remove: 'entries', list: of(before.lists, a)[0]!.id, entries }] : []
    }
    case 6:
      return of(before.rules, a).map(r => ({ remove: 'rule', id: r.id }))
    case 7:
      return of(before.bindings, a).map(r => ({ remove: 'use', id: r.id }))
    case 8:
      return of(before.rules, a).map(({ owner }) => {
        const ids = before.rules.filter(r => r.owner === owner).map(r => r.id)
        return { order: owner, rules: [...ids.slice(b % ids.length), ...ids.slice(0, b % ids.length)] }
      })
    default:
      return [
        of(before.lists, a).map(l => ({ remove: 'list' as const, id: l.id })),
        [{ put: 'threshold' as const, threshold: { id: 'sure' as const, at: 9 + b, stop: { to: 'spam' as const } } }],
        [{ put: 'quarantine' as const, quarantine: { id: `q${a}`, name: `Q ${a}` } }],
        of(before.phraseSets, a).map(s => ({ remove: 'phrase set' as const, id: s.id })),
      ][b % 4]!
  }
}

/** The changes with ids, where they can be made. */
function made({
  before,
  changes,
}: {
  before: Policy
  changes: PolicyChange[]
}): { changes: PolicyChange[], after: Policy } | null {
  let n = 0
  const whole = completed(changes, { id: () => `new${n++}`, now: NOW, by: 'Ines' })
  const got = apply(before, whole)
  return 'policy' in got ? { changes: whole, after: got.policy } : null
}

describe('changes as data', () => {
  it('taken back, they leave the policy as it was: a confirmation, an order, an entry’s note', () => {
    let some = 0
    fc.assert(
      fc.property(drawn, (given) => {
        const done = made(given)
        if (!done) return
        some++
        const back = apply(done.after, inverse(given.before, done.after))
        expect('policy' in back && sameness(back.policy)).toEqual(sameness(given.before))
      }),
      RUNS,
    )
    // Nothing is shown by changes that are refused.
    expect(some).toBeGreaterThan(RUNS.numRuns / 3)
  })
  it('what lies between any two policies is a list of changes that leads from one to the other', () => {
    fc.assert(
      fc.property(arbitraryPolicy.map(once), arbitraryPolicy.map(once), (one, other) => {
        const got = apply(one, differences(one, other))
        expect(got).toHaveProperty('policy')
        const { policy } = got as { policy: Policy }
        expect(differences(policy, other)).toEqual(lapsedOnly(policy, other))
      }),
      RUNS,
    )
  })
  it('a change that changes nothing comes to nothing', () => {
    fc.assert(
      fc.property(arbitraryPolicy.map(once), (policy) => {
        const again: PolicyChange[] = [
          ...policy.rules.map(rule => ({ put: 'rule' as const, rule })),
          ...policy.lists.map(list => ({ put: 'list' as const, list })),
          ...policy.phraseSets.map(set => ({ 'put': 'phrase set' as const, 'phrase set': set })),
        ]
        const got = apply(policy, again)
        expect('policy' in got && differences(policy, got.policy)).toEqual([])
      }),
      { ...RUNS, numRuns: 300 },
    )
  })
  it('where the way of a message changes, a clause is named that was touched; without those nothing differs', () => {
    fc.assert(
      fc.property(drawn, arbitraryParsed, (given, message) => {
        const done = made(given)
        if (!done) return
        const touched = touchedBy(given.before, done.changes)
        const bare = (p: Policy): Policy => ({
          ...p,
          rules: p.rules.filter(r => !touched.has(`rule ${r.id}`)),
          bindings: p.bindings.filter(b => !touched.has(`use ${b.id}`)),
          thresholds: Object.fromEntries(
            Object.entries(p.thresholds ?? {}).filter(([id]) => !touched.has(`threshold ${id}`)),
          ),
        })
        const lane = (p: Policy) =>
          decide(message, `oskar@${OURS}`, IndexedPolicy.build(bare(p)), { now: NOW, score: 12 })
        expect(lane(done.after)).toEqual(lane(given.before))
      }),
      RUNS,
    )
  })
  it('the words name whatever is touched, and nobody’s own clauses', () => {
    fc.assert(
      fc.property(drawn, (given) => {
        const done = made(given)
        if (!done) return
        let policy = given.before
        for (const change of done.changes) {
          const words = changeWords(policy, change)
          for (const { kind, id } of touches(policy, change)) {
            const rule = kind === 'rule' ? policy.rules.find(r => r.id === id) : undefined
            if (rule && (!rule.owner.startsWith('person:') || 'order' in change || isOf(change, id)))
              expect(words).toContain(rule.name)
            else if (rule) expect(words).toMatch(/own/)
          }
          const named = nameOf(policy, change)
          if (named) expect(words).toContain(named)
          const step = apply(policy, [change])
          if (!('policy' in step)) return
          policy = step.policy
        }
      }),
      RUNS,
    )
  })
  it('what is not said to become wider finds nobody whom it did not find before', () => {
    fc.assert(
      fc.property(drawn, (given) => {
        const done = made(given)
        if (!done) return
        let policy = given.before
        for (const change of done.changes) {
          const step = apply(policy, [change])
          if (!('policy' in step)) return
          const wider = widens(policy, change)
          for (const list of step.policy.lists.filter(l => !(wider && 'list' in wider && wider.list === l.id))) {
            const before = policy.lists.find(l => l.id === list.id)
            // One that is made has no confirmation yet that could lapse.
            if (!before) continue
            const known = new Set(before.on ? before.entries.map(e => `${e.kind} ${e.value} ${e.expires}`) : [])
            expect((list.on ? list.entries : []).filter(e => !known.has(`${e.kind} ${e.value} ${e.expires}`))).toEqual(
              [],
            )
          }
          policy = step.policy
        }
      }),
      RUNS,
    )
  })
  it('no confirmation outlives that what it was given for became wider', () => {
    fc.assert(
      fc.property(drawn, (given) => {
        for (const change of made(given)?.changes ?? []) {
          const wider = widens(given.before, change)
          const step = apply(given.before, [change])
          if (!wider || !('policy' in step)) continue
          const users = [
            ...step.policy.bindings.filter(b => 'list' in wider && b.list === wider.list).map(b => b.stop),
            ...step.policy.rules
              .filter(r => ('list' in wider ? refersToList(r, wider.list) : refersToSet(r, wider.set)))
              .flatMap(r => r.claims.map(c => ('stop' in c ? c.stop : undefined))),
          ]
          expect(users.filter(stop => stop?.confirmed)).toEqual([])
        }
      }),
      RUNS,
    )
  })
  it('written as JSON and read again they are the same', () => {
    fc.assert(
      fc.property(drawn, ({ changes }) => {
        const read = readChanges(JSON.parse(JSON.stringify(changes)))
        expect(read).toEqual({ changes: JSON.parse(JSON.stringify(changes)) })
      }),
      { ...RUNS, numRuns: 500 },
    )
  })
})

function touchedBy(before: Policy, changes: readonly PolicyChange[]): Set<string> {
  const out = new Set<string>()
  let policy = before
  for (const change of changes) {
    for (const { kind, id } of touches(policy, change)) out.add(`${kind} ${id}`)
    const step = apply(policy, [change])
    if ('policy' in step) policy = step.policy
  }
  return out
}

function isOf(change: PolicyChange, id: string): boolean {
  return 'put' in change
    ? change.put === 'rule' && change.rule.id === id
    : 'remove' in change && change.remove === 'rule' && change.id === id
}

function nameOf(policy: Policy, change: PolicyChange): string | undefined {
  if ('order' in change) return undefined
  if ('put' in change) {
    if (change.put === 'rule') return change.rule.name
    if (change.put === 'list') return change.list.name
    if (change.put === 'phrase set') return change['phrase set'].name
    if (change.put === 'quarantine') return change.quarantine.name
    return change.put === 'entries' ? policy.lists.find(l => l.id === change.list)?.name : undefined
  }
  if (change.remove === 'rule') return policy.rules.find(r => r.id === change.id)?.name
  return change.remove === 'list' ? policy.lists.find(l => l.id === change.id)?.name : undefined
}

/** Confirmations lapse where lists and sets become wider on the way: these and no other differences may remain. */
function lapsedOnly(got: Policy, wanted: Policy): PolicyChange[] {
  const left = differences(got, wanted)
  const unconfirmed = (thing: object) => JSON.parse(JSON.stringify(thing).replaceAll(',"confirmed":true', '')) as object
  return left.filter(
    c =>
      'put' in c &&
      ((c.put === 'rule' && isSame(unconfirmed(got.rules.find(r => r.id === c.rule.id)!), unconfirmed(c.rule))) ||
        (c.put === 'use' && isSame(unconfirmed(got.bindings.find(b => b.id === c.use.id)!), unconfirmed(c.use)))),
  )
}
