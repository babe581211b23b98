import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { decide, IndexedPolicy, parseMessage, type Policy } from '#core'
import { apply, handOver, inverse } from '#core/change'
import { arbitraryMessage, arbitraryPolicy } from '../../support/arbitrary'
import { NOW, OURS, TRUST } from '../../support/build'

const FROM = { owner: 'person:oskar', name: 'Oskar' }
const TO = 'person:heir'
/** The same policy, in which one list and one set are Oskar's own, and somebody may inherit. */
const withSuccessor = (policy: Policy): Policy => ({
  ...policy,
  people: [
    ...policy.people,
    { id: 'heir', name: 'Heir', addresses: [`heir@${OURS}`], departments: policy.people[0]!.departments },
  ],
  assignments: [],
  rules: policy.rules.filter(r => !JSON.stringify(r).includes('"senderOn"') && !JSON.stringify(r).includes('"set"')),
  lists: policy.lists.map((l, i) => (i === 0 ? { ...l, owner: FROM.owner } : l)),
})
const ownedBy = (policy: Policy, owner: string) =>
  [policy.lists, policy.assignments, policy.phraseSets, policy.rules].flatMap((things: { owner: string }[]) =>
    things.filter(t => t.owner === owner),
  )

describe('whoever leaves: rules that nobody can change any more would go on over mail that nobody reads', () => {
  it('everything becomes the heir’s, nothing is lost, and it can be taken back', () => {
    fc.assert(
      fc.property(arbitraryPolicy.map(withSuccessor), (policy) => {
        const count = ownedBy(policy, FROM.owner).length
        const got = apply(policy, handOver(policy, FROM, TO))
        expect(got).toHaveProperty('policy')
        const { policy: after } = got as { policy: Policy }
        expect([ownedBy(after, FROM.owner).length, ownedBy(after, TO).length]).toEqual([0, count])
        const back = apply(after, inverse(policy, after))
        expect(ownedBy((back as { policy: Policy }).policy, FROM.owner)).toHaveLength(count)
      }),
      { seed: 8, numRuns: 300 },
    )
  })
  it('the heir’s mail then goes where the other’s went', async () => {
    await fc.assert(
      fc.asyncProperty(arbitraryPolicy.map(withSuccessor), arbitraryMessage, async (policy, { bytes, envelope }) => {
        const got = apply(policy, handOver(policy, FROM, TO)) as { policy: Policy }
        const message = await parseMessage(bytes, { ...envelope, client: '203.0.113.9' }, TRUST)
        const lane = (p: Policy, to: string) => decide(message, to, IndexedPolicy.build(p), { now: NOW }).lane
        const named = JSON.stringify(policy.rules).includes('addressed')
        if (!named) expect(lane(got.policy, `heir@${OURS}`)).toBe(lane(policy, `oskar@${OURS}`))
      }),
      { seed: 8, numRuns: 300 },
    )
  })
  it('a name that the heir has already says from whom it came, and the heir’s own rules come first', () => {
    const rule = (id: string, name: string, owner: string) =>
      ({
        id,
        name,
        owner,
        state: 'enabled',
        when: { every: true },
        except: [],
        claims: [{ stop: { to: 'spam' } }],
      }) as Policy['rules'][number]
    const bare = { quarantines: [], lists: [], assignments: [], phraseSets: [] }
    const policy = {
      ...bare,
      rules: [rule('a', 'Offers', FROM.owner), rule('b', 'offers', TO), rule('c', 'Other', FROM.owner)],
    }
    const got = apply(policy, handOver(policy, FROM, TO)) as { policy: typeof policy }
    expect(got.policy.rules.map(r => [r.name, r.owner])).toEqual([
      ['offers', TO],
      ['Offers (from Oskar)', TO],
      ['Other', TO],
    ])
  })
})
