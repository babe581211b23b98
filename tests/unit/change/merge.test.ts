// Changes that were made on an older policy: what came since would be lost without a word.
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Policy, Rule } from '#core'
import { apply, merged, readChanges, type PolicyChange } from '#core/change'
import { arbitraryPolicy } from '../../support/arbitrary'
import { policy } from '../../support/build'

const RULE: Rule = {
  id: 'r',
  name: 'Fees',
  owner: 'organisation',
  state: 'enabled',
  when: { any: [{ phrases: ['handling fee', 'release fee'] }] },
  except: [{ sender: { kind: 'address', value: 'a@one.test' } }],
  claims: [{ stop: { to: 'spam' } }],
}
const exception = (value: string) => ({ sender: { kind: 'address' as const, value } })
const withRule = (rule: Partial<Rule>): Policy => policy({ rules: [{ ...RULE, ...rule }] })
const put = (rule: Partial<Rule>): PolicyChange => ({ type: 'put', kind: 'rule', value: { ...RULE, ...rule } })
const ruleIn = ({ changes }: { changes: PolicyChange[] }) => (changes[0] as Extract<PolicyChange, { type: 'put', kind: 'rule' }>).value

describe('changes that were made on an older policy', () => {
  it('keep an exception that was added since, beside their own', () => {
    const found = merged(
      [put({ except: [...RULE.except, exception('mine@x.test')] })],
      withRule({}),
      withRule({ except: [...RULE.except, exception('theirs@x.test')] }),
    )
    expect(ruleIn(found).except).toEqual([...RULE.except, exception('theirs@x.test'), exception('mine@x.test')])
    expect(found.replaces).toEqual([])
  })

  it('take out what they took out, and leave out what was taken out since', () => {
    const two = { except: [exception('a@one.test'), exception('b@two.test')] }
    const found = merged([put({ except: [exception('b@two.test')] })], withRule(two), withRule({ except: [exception('a@one.test')] }))
    expect(ruleIn(found).except).toEqual([])
  })

  it('keep words that were added to a condition since', () => {
    const phrases = (...of: string[]) => ({ when: { any: [{ phrases: of }] } })
    const found = merged(
      [put(phrases('handling fee'))],
      withRule({}),
      withRule(phrases('handling fee', 'release fee', 'crane fee')),
    )
    expect(ruleIn(found).when).toEqual({ any: [{ phrases: ['handling fee', 'crane fee'] }] })
    expect(found.replaces).toEqual([])
  })

  it('say what they replace where both changed the same, and replace nothing else', () => {
    const found = merged(
      [put({ claims: [{ stop: { to: 'bin' } }], name: 'Fees and dues' })],
      withRule({}),
      withRule({ claims: [{ stop: { to: 'quarantine', quarantine: 'general' } }], state: 'monitor' }),
    )
    expect(ruleIn(found)).toMatchObject({ name: 'Fees and dues', state: 'monitor', claims: [{ stop: { to: 'bin' } }] })
    expect(found.replaces).toEqual([{ kind: 'rule', id: 'r', part: 'claims' }])
  })

  it('stay as they are where nothing came since, and where their thing is new or gone', () => {
    const changes = [put({ state: 'disabled' })]
    expect(merged(changes, withRule({}), withRule({}))).toEqual({ changes, replaces: [] })
    expect(merged(changes, policy({}), withRule({})).changes).toEqual(changes)
    expect(merged(changes, withRule({}), policy({})).changes).toEqual(changes)
  })

  it('come to what both wanted whatever the rules: each member that either added is there, none that either took out', () => {
    let tried = 0
    fc.assert(
      fc.property(arbitraryPolicy, fc.nat(), fc.nat(), (base, one, other) => {
        const rule = base.rules[0]
        if (!rule) return
        const [mine, theirs] = [exception(`mine${one}@x.test`), exception(`theirs${other}@x.test`)]
        const now = apply(base, [{ type: 'put', kind: 'rule', value: { ...rule, except: [...rule.except.slice(1), theirs] } }])
        if ('problems' in now) return
        tried++
        const asked: PolicyChange[] = [{ type: 'put', kind: 'rule', value: { ...rule, except: [...rule.except, mine] } }]
        const found = merged(asked, base, now.policy)
        const { except } = ruleIn(found)
        expect(except).toEqual(expect.arrayContaining([mine, theirs, ...rule.except.slice(1)]))
        if (rule.except[0] && !rule.except.slice(1).some(e => JSON.stringify(e) === JSON.stringify(rule.except[0])))
          expect(except).not.toContainEqual(rule.except[0])
        expect(readChanges(JSON.parse(JSON.stringify(found.changes)))).not.toHaveProperty('problems')
      }),
      { seed: 71, numRuns: 200 },
    )
    expect(tried).toBeGreaterThan(50)
  })
})
