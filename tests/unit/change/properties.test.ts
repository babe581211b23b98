import fc from 'fast-check'
import isSame from 'fast-deep-equal'
import { describe, expect, it } from 'vitest'
import { decide, IndexedPolicy, refersToList, refersToSet, type Policy } from '#core'
import {
  apply,
  changeWords,
  completed,
  differences,
  IndexedClauses,
  inverse,
  readChanges,
  touches,
  widens,
  type PolicyChange,
} from '#core/change'
import { arbitraryPolicy } from '../../support/arbitrary'
import { NOW, OURS } from '../../support/build'
import { drawnChanges as drawn, once } from '../../support/changes'
import { arbitraryParsed } from '../../support/parsed'

const RUNS = { seed: 8, numRuns: 600 }

/** What two policies must have alike to be the same: the order of rules of one owner, and of nothing else. */
function sameness(policy: Policy) {
  const sorted = <T extends { id: string }>(things: readonly T[]) => [...things].sort((a, b) => (a.id < b.id ? -1 : 1))
  return {
    lists: sorted(policy.lists).map(l => ({ ...l, entries: sorted(l.entries) })),
    assignments: sorted(policy.assignments),
    phraseSets: sorted(policy.phraseSets),
    quarantines: sorted(policy.quarantines),
    rules: ['organisation', 'department:accounts', 'department:office', 'person:oskar'].map(o =>
      policy.rules.filter(r => r.owner === o),
    ),
    thresholds: Object.entries(policy.thresholds ?? {}).filter(([, t]) => t !== undefined),
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
          ...policy.rules.map(rule => ({ type: 'put' as const, kind: 'rule' as const, value: rule })),
          ...policy.lists.map(list => ({ type: 'put' as const, kind: 'list' as const, value: list })),
          ...policy.phraseSets.map(set => ({ type: 'put' as const, kind: 'phraseSet' as const, value: set })),
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
          assignments: p.assignments.filter(b => !touched.has(`assignment ${b.id}`)),
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
            if (rule && (!rule.owner.startsWith('person:') || change.type === 'order' || isOf(change, id)))
              expect(words).toContain(rule.name)
            else if (rule) expect(words).toMatch(/personal list/)
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
          const wider = widens(new IndexedClauses(policy), change)
          for (const list of step.policy.lists.filter(l => !(wider && 'list' in wider && wider.list === l.id))) {
            const before = policy.lists.find(l => l.id === list.id)
            // One that is made has no confirmation yet that could lapse.
            if (!before) continue
            const known = new Set(before.enabled ? before.entries.map(e => `${e.kind} ${e.value} ${e.expires}`) : [])
            expect((list.enabled ? list.entries : []).filter(e => !known.has(`${e.kind} ${e.value} ${e.expires}`))).toEqual(
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
          const wider = widens(new IndexedClauses(given.before), change)
          const step = apply(given.before, [change])
          if (!wider || !('policy' in step)) continue
          const users = [
            ...step.policy.assignments.filter(b => 'list' in wider && b.list === wider.list).map(b => b.stop),
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
  return change.type === 'put'
    ? change.kind === 'rule' && change.value.id === id
    : change.type === 'remove' && change.kind === 'rule' && change.id === id
}

function nameOf(policy: Policy, change: PolicyChange): string | undefined {
  if (change.type === 'order') return undefined
  if (change.type === 'put') {
    if (change.kind === 'rule') return change.value.name
    if (change.kind === 'list') return change.value.name
    if (change.kind === 'phraseSet') return change.value.name
    if (change.kind === 'quarantine') return change.value.name
    return change.kind === 'entries' ? policy.lists.find(l => l.id === change.list)?.name : undefined
  }
  if (change.kind === 'rule') return policy.rules.find(r => r.id === change.id)?.name
  return change.kind === 'list' ? policy.lists.find(l => l.id === change.id)?.name : undefined
}

/** Confirmations lapse where lists and sets become wider on the way: these and no other differences may remain. */
function lapsedOnly(got: Policy, wanted: Policy): PolicyChange[] {
  const left = differences(got, wanted)
  const unconfirmed = (thing: object) => JSON.parse(JSON.stringify(thing).replaceAll(',"confirmed":true', '')) as object
  return left.filter(
    c =>
      c.type === 'put' &&
      ((c.kind === 'rule' && isSame(unconfirmed(got.rules.find(r => r.id === c.value.id)!), unconfirmed(c.value))) ||
        (c.kind === 'assignment' && isSame(unconfirmed(got.assignments.find(b => b.id === c.value.id)!), unconfirmed(c.value)))),
  )
}
