import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  clauseKey,
  compilePolicy,
  decide,
  IndexedPolicy,
  settling,
  type ClauseRef,
  type Message,
  type Policy,
  type Decision,
} from '#core'
import { arbitraryContext, arbitraryPolicy } from '../../support/arbitrary'
import { NOW, OURS } from '../../support/build'
import { arbitraryParsed } from '../../support/parsed'

const RECIPIENTS = [`oskar@${OURS}`, 'nobody@elsewhere.example']

/** The same policy with clauses switched off, as an administrator would. */
function switchedOff(policy: Policy, clauses: readonly ClauseRef[]): Policy {
  const gone = new Set(clauses.map(clauseKey))
  return {
    ...policy,
    rules: policy.rules.map(r => (gone.has(`rule ${r.id}`) ? { ...r, state: 'disabled' as const } : r)),
    assignments: policy.assignments.map(b => (gone.has(`list ${b.id}`) ? { ...b, state: 'disabled' as const } : b)),
  }
}

const ends = ({ lane, quarantine, place, effects, stop }: Decision) => ({ lane, quarantine, place, effects, stop })
const isClause = ({ kind }: ClauseRef) => kind === 'rule' || kind === 'list'

/** Some of the clauses that matched, chosen by bits. */
function someOf({ reasons }: Decision, bits: number): ClauseRef[] {
  const clauses = [...new Map(reasons.map(r => [clauseKey(r.clause), r.clause])).values()].filter(isClause)
  return clauses.filter((_, i) => bits & (1 << i))
}

interface Options {
  bits: number
  context: { score?: number }
}

function held(run: (policy: Policy, message: Message, how: Options) => void, numRuns: number) {
  fc.assert(
    fc.property(arbitraryPolicy, arbitraryParsed, fc.nat(255), arbitraryContext, (policy, message, bits, context) => {
      run(policy, message, { bits, context })
    }),
    { seed: 51, numRuns },
  )
}

describe('a copy settled without some clauses', () => {
  it('ends where it would with these switched off: “without this: inbox” is true of the day on which somebody does it', () => {
    let otherwise = 0
    held((policy, message, { bits, context }) => {
      const indexed = IndexedPolicy.build(policy)
      for (const recipient of RECIPIENTS) {
        const settled = settling(message, recipient, indexed, { now: NOW, ...context })
        const without = someOf(settled([]), bits)
        const [with_, supposed] = [settled([]), settled(without)]
        const really = decide(message, recipient, compilePolicy(switchedOff(policy, without)), { now: NOW, ...context })
        expect(ends(supposed)).toEqual(ends(really))
        if (with_.lane !== supposed.lane) otherwise++
      }
    }, 500)
    expect(otherwise).toBeGreaterThan(20)
  })

  it('is the same however often and in whatever order it is asked: looking changes nothing', () => {
    held((policy, message, { bits, context }) => {
      const [recipient] = RECIPIENTS as [string]
      const settled = settling(message, recipient, IndexedPolicy.build(policy), { now: NOW, ...context })
      const first = JSON.stringify(settled([]))
      const without = someOf(settled([]), bits)
      const once = JSON.stringify(settled(without))
      expect(JSON.stringify(settled([...without].reverse()))).toBe(once)
      expect(JSON.stringify(settled([]))).toBe(first)
      expect(JSON.stringify(decide(message, recipient, policy, { now: NOW, ...context }))).toBe(first)
    }, 200)
  })

  it('says nothing of what is not there: the reasons leave it out, and name the rest', () => {
    held((policy, message, { bits, context }) => {
      const [recipient] = RECIPIENTS as [string]
      const settled = settling(message, recipient, compilePolicy(policy), { now: NOW, ...context })
      const all = settled([]).reasons.map(r => clauseKey(r.clause))
      const without = someOf(settled([]), bits).map(clauseKey)
      const left = new Set(settled(someOf(settled([]), bits)).reasons.map(r => clauseKey(r.clause)))
      for (const key of without) expect(left).not.toContain(key)
      for (const key of all) if (!without.includes(key) && !settled([]).stop) expect(left).toContain(key)
    }, 200)
  })
})
