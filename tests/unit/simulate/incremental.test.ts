import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { compilePolicy, decide, entryCatches, entryKey, IndexedPolicy, type Message, type Policy, type Decision } from '#core'
import { apply, differences, replayed, type PolicyChange } from '#core/change'
import { affectedScope, pairOf, simulateCopy, simulateEach, type Lookup } from '#core/simulate'
import { ANY_WORD } from '../../../server/db/search'
import { searchedWords } from '../../../server/intake/intake-rows'
import { arbitraryPolicy } from '../../support/arbitrary'
import { NOW, OURS } from '../../support/build'
import { severalParsed } from '../../support/parsed'

const RECIPIENTS = [`oskar@${OURS}`, 'nobody@elsewhere.example']

/** A list holds nothing twice. */
function oneOfEach(policy: Policy): Policy {
  const lists = policy.lists.map(l => ({ ...l, entries: [...new Map(l.entries.map(e => [entryKey(e), e])).values()] }))
  return { ...policy, lists }
}

/** Some of the changes that make one policy of another; an order is of all rules, and taken only where all else is. */
const arbitraryChange = fc
  .record({
    before: arbitraryPolicy.map(oneOfEach),
    other: arbitraryPolicy.map(oneOfEach),
    taken: fc.array(fc.boolean(), { minLength: 40, maxLength: 40 }),
    all: fc.nat(3),
  })
  .map(({ before, other, taken, all }) => {
    const whole = differences(before, other)
    const after = all === 0 ? other : replayed(before, whole.filter((c, i) => taken[i % taken.length] && c.type !== 'order'))
    return { before, after, net: differences(before, after) }
  })

// Evidence may come in another order: an entry that changed stands behind those that did not.
const result = ({ reasons, ...decision }: Decision) => ({
  ...decision,
  reasons: reasons.map(({ clause, claim, outcome }) => ({ clause: clause.id, entry: clause.entry?.id, claim, outcome: outcome.kind })),
})

interface About {
  before: Policy
  after: Policy
  net: readonly PolicyChange[]
}

/** Draws changes and some messages. What does not depend on the message is made once for all of them. */
function held(prepare: (about: About) => (message: Message) => void, numRuns: number, messagesEach = 3) {
  fc.assert(
    fc.property(arbitraryChange, severalParsed(messagesEach), (about, messages) => messages.forEach(prepare(about))),
    { seed: 21, numRuns },
  )
}

describe('a rehearsal', () => {
  it('says of every copy what deciding anew under the whole changed policy says, and passes over none that would end elsewhere: nobody '
    + 'puts something else in force than was shown', () => {
    const where = (r: Decision) => [r.lane, r.quarantine, r.place, r.effects]
    held(({ before, after, net }) => {
      const pair = pairOf(IndexedPolicy.build(before), net)
      const plain = [compilePolicy(before), compilePolicy(after)] as const
      return (message) => {
        for (const recipient of RECIPIENTS) {
          const [before, after] = [pair.before, pair.after].map(p => result(decide(message, recipient, p, { now: NOW })))
          const [was, is] = plain.map(p => decide(message, recipient, p, { now: NOW })) as [Decision, Decision]
          expect([before, after]).toEqual([result(was), result(is)])
          if (simulateCopy(message, recipient, pair, NOW) === null) expect(where(is)).toEqual(where(was))
        }
      }
    }, 300)
  })

  it('of a change alone passes over no copy by what an archive is asked for: its figures would be too small', () => {
    let touched = 0
    held(({ before, net }) => {
      const base = IndexedPolicy.build(before)
      const alone = net.filter(change => isSound(before, [change])).map(change => ({
        pair: pairOf(base, [change]),
        keys: affectedScope(before, [change], list => before.lists.find(l => l.id === list)?.entries ?? null).lookupKeys,
      }))
      return (message) => {
        for (const { pair, keys } of alone) {
          if (!keys) continue
          for (const recipient of RECIPIENTS) {
            if (simulateCopy(message, recipient, pair, NOW) === null) continue
            touched++
            expect(isFound(message, keys), JSON.stringify(keys)).toBe(true)
          }
        }
      }
    }, 200, 12)
    // Otherwise it would say little.
    expect(touched).toBeGreaterThan(50)
  })

  it('asked backwards it gives the policy before the change: mail here is moved from where it really went', () => {
    held(({ before, after }) => {
      const pair = pairOf(IndexedPolicy.build(after), differences(after, before), true)
      const plain = compilePolicy(before)
      return (message) => {
        for (const recipient of RECIPIENTS) {
          const expected = result(decide(message, recipient, plain, { now: NOW }))
          expect(result(decide(message, recipient, pair.before, { now: NOW }))).toEqual(expected)
        }
      }
    }, 150)
  })

  it('of several changes together says of each what it says of it alone: the price beside one is never another’s', () => {
    held(({ before, net }) => {
      const base = IndexedPolicy.build(before)
      const ranked = net.findIndex(c => c.type === 'order')
      const parts = ranked < 0 ? [[], net.slice(0, 1), net, net.slice(-1), net.slice(0, 3)] : [[], net, []]
      const sound = parts.filter(part => isSound(before, part))
      const [shared, own] = [sound.map(part => pairOf(base, part)), sound.map(part => pairOf(IndexedPolicy.build(before), part))]
      return (message) => {
        for (const recipient of RECIPIENTS) {
          const together = simulateEach(message, recipient, shared, NOW)
          const alone = own.map(pair => simulateCopy(message, recipient, pair, NOW))
          const both = (r: (typeof alone)[number]) => r && [result(r.before), result(r.after)]
          expect(together.map(both)).toEqual(alone.map(both))
        }
      }
    }, 60)
  })
})

/** Whether an archive finds a message: by one of its senders or its list, or by the words that its row holds. */
function isFound({ content, attempt }: Message, { senders, texts }: Lookup): boolean {
  const addresses = [...content.from, content.sender, attempt.envelopeSender].filter(a => a !== null)
  const words = searchedWords(content)
  return senders.some(entry => addresses.some(address => entryCatches(entry, { address, listId: content.list.id, client: attempt.client })))
    || words.includes(ANY_WORD)
    || texts.some(t => t.words.every(w => words.includes(w)) && t.beginnings.every(b => words.some(w => w.startsWith(b))))
}

// A part of a change may need another part of it.
function isSound(policy: Policy, changes: readonly PolicyChange[]): boolean {
  return 'policy' in apply(policy, changes)
}
