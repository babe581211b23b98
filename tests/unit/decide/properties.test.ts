import fc from 'fast-check'
import isSame from 'fast-deep-equal'
import { describe, expect, it } from 'vitest'
import { decide, IndexedPolicy, compilePolicy, readPolicy, type Policy } from '#core'
import { arbitraryContext, arbitraryEntry, arbitraryPolicy } from '../../support/arbitrary'
import { NOW, OURS } from '../../support/build'
import { arbitraryParsed, severalParsed } from '../../support/parsed'

const RECIPIENT = `oskar@${OURS}`
const stopped = (lane: string) => lane !== 'inbox' && lane !== 'lowPriority'

describe('the policies that properties are tried on', () => {
  it('are valid, and read as they are: what holds of them holds of what an administrator can save', () => {
    fc.assert(
      fc.property(arbitraryPolicy, (policy) => {
        expect(readPolicy(structuredClone(policy))).toEqual({ policy })
      }),
      { seed: 16, numRuns: 300 },
    )
  })
})

describe('properties of a decision', () => {
  it('the indexed evaluator and the plain one give the same ruling, byte for byte', () => {
    fc.assert(
      fc.property(arbitraryPolicy, severalParsed(10), arbitraryContext, (policy, messages, known) => {
        const [indexed, plain] = [IndexedPolicy.build(policy), compilePolicy(policy)]
        for (const message of messages)
          for (const recipient of [RECIPIENT, 'nobody@elsewhere.example']) {
            const [one, other] = [indexed, plain].map(p => decide(message, recipient, p, { now: NOW, ...known }))
            if (!isSame(one, other)) expect(one).toEqual(other)
          }
      }),
      { seed: 11, numRuns: 600 },
    )
  })

  it('adding a protection never stops more', () => {
    fc.assert(
      fc.property(arbitraryPolicy, arbitraryParsed, (policy, message) => {
        const more: Policy = {
          ...policy,
          rules: [
            {
              id: 'shield',
              name: 'shield',
              owner: 'person:oskar',
              overridesLists: true,
              state: 'enabled',
              when: { every: true },
              except: [],
              claims: [{ protect: ['spam', 'quarantine', 'delete', 'refuse'] }],
            },
            ...policy.rules,
          ],
        }
        const [before, after] = [
          decide(message, RECIPIENT, policy, { now: NOW }),
          decide(message, RECIPIENT, more, { now: NOW }),
        ]
        if (!stopped(before.lane)) expect(stopped(after.lane)).toBe(false)
      }),
      { seed: 12, numRuns: 1000 },
    )
  })

  it('adding an entry to a list that is only bound to stops never frees', () => {
    fc.assert(
      fc.property(
        arbitraryPolicy,
        arbitraryEntry,
        arbitraryParsed,
        (policy, entry, message) => {
          // Erase and drop yield to a later quarantine and never free; a list that rules ask could exempt by an exception.
          const only: Policy = {
            ...policy,
            lists: [
              ...policy.lists,
              { id: 'only', name: 'only', owner: 'organisation', usualSide: 'block', enabled: true, entries: [] },
            ],
            assignments: [
              ...policy.assignments,
              { id: 'only', list: 'only', owner: 'organisation', side: 'block', state: 'enabled', stop: { to: 'spam' } },
            ],
          }
          const more: Policy = {
            ...only,
            lists: only.lists.map(l => (l.id === 'only' ? { ...l, entries: [{ id: 'new', ...entry }] } : l)),
          }
          if (stopped(decide(message, RECIPIENT, only, { now: NOW }).lane))
            expect(stopped(decide(message, RECIPIENT, more, { now: NOW }).lane)).toBe(true)
        },
      ),
      { seed: 13, numRuns: 1000 },
    )
  })

  // Trade practice, no source: a likely threshold of 5 that is lowered to 4 stops more and never less.
  it('lowering a threshold never frees', () => {
    fc.assert(
      fc.property(
        arbitraryPolicy,
        arbitraryParsed,
        fc.constantFrom(3, 4, 4.5, 5, 6),
        (policy, message, score) => {
          const lane = (at: number) =>
            decide(
              message,
              RECIPIENT,
              { ...policy, thresholds: { likely: { at, stop: { to: 'spam' } } } },
              { now: NOW, score },
            ).lane
          if (stopped(lane(5))) expect(stopped(lane(4))).toBe(true)
        },
      ),
      { seed: 15, numRuns: 500 },
    )
  })

  it('where lists, assignments and entries stand in the policy does not matter', () => {
    fc.assert(
      fc.property(arbitraryPolicy, arbitraryParsed, (policy, message) => {
        const turned: Policy = {
          ...policy,
          lists: [...policy.lists].reverse(),
          assignments: [...policy.assignments].reverse(),
          people: [...policy.people].reverse(),
          departments: [...policy.departments].reverse(),
        }
        expect(decide(message, RECIPIENT, IndexedPolicy.build(turned), { now: NOW })).toEqual(
          decide(message, RECIPIENT, IndexedPolicy.build(policy), { now: NOW }),
        )
      }),
      { seed: 14, numRuns: 500 },
    )
  })
})
