import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { decide, IndexedPolicy, compilePolicy, parseMessage, type Policy } from '#core'
import { arbitraryContext, arbitraryEntry, arbitraryMessage, arbitraryPolicy } from '../../support/arbitrary'
import { NOW, OURS, TRUST } from '../../support/build'

const RECIPIENT = `oskar@${OURS}`
const stopped = (lane: string) => lane !== 'inbox' && lane !== 'slow lane'

describe('properties of a decision', () => {
  it('the indexed evaluator and the plain one give the same ruling, byte for byte', async () => {
    await fc.assert(
      fc.asyncProperty(
        arbitraryPolicy,
        fc.array(arbitraryMessage, { minLength: 3, maxLength: 3 }),
        arbitraryContext,
        async (policy, messages, known) => {
          const [indexed, plain] = [IndexedPolicy.build(policy), compilePolicy(policy)]
          for (const { bytes, envelope } of messages) {
            const message = await parseMessage(bytes, envelope, TRUST)
            for (const recipient of [RECIPIENT, 'nobody@elsewhere.example'])
              expect(decide(message, recipient, indexed, { now: NOW, ...known })).toEqual(
                decide(message, recipient, plain, { now: NOW, ...known }),
              )
          }
        },
      ),
      { seed: 11, numRuns: 5000 },
    )
  })

  it('adding a protection never stops more', async () => {
    await fc.assert(
      fc.asyncProperty(arbitraryPolicy, arbitraryMessage, async (policy, { bytes, envelope }) => {
        const message = await parseMessage(bytes, envelope, TRUST)
        const more: Policy = {
          ...policy,
          rules: [
            {
              id: 'shield',
              name: 'shield',
              owner: 'person:oskar',
              raised: true,
              state: 'acting',
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

  it('adding an entry to a list that is only bound to stops never frees', async () => {
    await fc.assert(
      fc.asyncProperty(
        arbitraryPolicy,
        arbitraryEntry,
        arbitraryMessage,
        async (policy, entry, { bytes, envelope }) => {
          const message = await parseMessage(bytes, envelope, TRUST)
          // Erase and drop yield to a later quarantine and never free; a list that rules ask could spare by an exception.
          const only: Policy = {
            ...policy,
            lists: [
              ...policy.lists,
              { id: 'only', name: 'only', owner: 'organisation', usualSide: 'block', on: true, entries: [] },
            ],
            bindings: [
              ...policy.bindings,
              { id: 'only', list: 'only', owner: 'organisation', side: 'block', state: 'acting', stop: { to: 'spam' } },
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
  it('lowering a threshold never frees', async () => {
    await fc.assert(
      fc.asyncProperty(
        arbitraryPolicy,
        arbitraryMessage,
        fc.constantFrom(3, 4, 4.5, 5, 6),
        async (policy, { bytes, envelope }, score) => {
          const message = await parseMessage(bytes, envelope, TRUST)
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

  it('where lists, bindings and entries stand in the policy does not matter', async () => {
    await fc.assert(
      fc.asyncProperty(arbitraryPolicy, arbitraryMessage, async (policy, { bytes, envelope }) => {
        const message = await parseMessage(bytes, envelope, TRUST)
        const turned: Policy = {
          ...policy,
          lists: [...policy.lists].reverse(),
          bindings: [...policy.bindings].reverse(),
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
