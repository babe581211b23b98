// Several senders in one condition: one that is forgotten lets in what was to be stopped, or stops what was to be exempted.
import { describe, expect, it } from 'vitest'
import { checkPolicy, decide, readPolicy, type Condition, type Rule } from '#core'
import { ruleSentence } from '#core/words'
import { letter, NOW, OURS, policy } from '../../support/build'

const two: Condition = {
  sender: [
    { kind: 'address', value: 'a@one.test' },
    { kind: 'domain', value: 'two.test' },
  ],
}
const rule = (id: string, over: Partial<Rule> = {}): Rule => ({
  id,
  name: id,
  owner: 'organisation',
  state: 'enabled',
  when: { phrases: ['offer'] },
  except: [],
  claims: [{ stop: { to: 'spam' } }],
  ...over,
})
const lane = async (from: string, over: Partial<Rule>, auth?: 'pass' | 'fail') =>
  decide(await letter({ from, text: 'an offer', auth }), `oskar@${OURS}`, policy({ rules: [rule('r', over)] }), {
    now: NOW,
  }).lane

describe('several senders in one condition', () => {
  it.each([
    ['a@one.test', 'spam'],
    ['b@one.test', 'inbox'],
    ['b@two.test', 'spam'],
    ['b@sub.two.test', 'inbox'],
  ])('a rule that catches any of them: %s goes to %s', async (from, to) => expect(await lane(from, { when: two })).toBe(to))
  it('spares each of them as it would alone: only where it is verified', async () => {
    const over = { except: [two] }
    expect([
      await lane('b@two.test', over, 'pass'),
      await lane('b@two.test', over),
      await lane('a@one.test', over, 'fail'),
    ]).toEqual(['inbox', 'spam', 'spam'])
  })
  it('under none it holds only where it is none of them, verified as an exception would have it', async () => {
    const when: Condition = { all: [{ phrases: ['offer'] }, { none: [two] }] }
    expect([
      await lane('a@one.test', { when }, 'pass'),
      await lane('a@one.test', { when }),
      await lane('c@three.test', { when }, 'pass'),
    ]).toEqual(['inbox', 'spam', 'spam'])
  })
  it('reads as one sentence', () => {
    const { lists, quarantines, phraseSets } = policy({})
    const names = { lists, quarantines, phraseSets }
    expect(ruleSentence(rule('r', { when: two, except: [two] }), names)).toBe(
      'When the sender is a@one.test or @two.test, move to Spam, unless the sender is a@one.test or @two.test (if verified).',
    )
  })
  it.each<[string, unknown, RegExp]>([
    ['nobody', [], /enter at least one sender/],
    ['the same one twice, spelt otherwise', [{ kind: 'domain', value: 'two.test' }, { kind: 'domain', value: 'TWO.test' }], /twice/],
    ['what is no sender', [{ kind: 'address', value: 'two.test' }], /address/],
    ['more than a rule may hold', Array.from({ length: 201 }, (_, i) => ({ kind: 'domain', value: `d${i}.test` })), /200/],
  ])('refuses %s', (_, sender, why) => {
    const read = readPolicy({ ...policy({}), rules: [rule('r', { when: { sender } as Condition })] })
    expect('problems' in read && read.problems.map(p => p.message).join()).toMatch(why)
  })
  it('the format stays: one sender is written as before', () => {
    const one: Condition = { sender: { kind: 'domain', value: 'two.test' } }
    const read = readPolicy({ ...policy({}), rules: [rule('r', { when: one })] })
    expect('policy' in read && [read.policy.formatVersion, read.policy.rules[0]!.when]).toEqual([3, one])
  })
  it('the checks see each of them: a rule after one that takes all its senders is never reached', () => {
    const narrow: Condition = { sender: { kind: 'address', value: 'x@two.test' } }
    const found = (first: Condition, second: Condition) =>
      checkPolicy(policy({ rules: [rule('a', { when: first }), rule('b', { when: second })] }), { now: NOW }).map(
        f => `${f.clause.id}: ${f.kind}`,
      )
    expect(found(two, narrow)).toEqual(['b: covered by an earlier rule'])
    expect(found(narrow, two)).toEqual([])
    expect(found({ all: [two, { sender: { kind: 'address', value: 'a@one.test' } }] }, { phrases: ['x'] })).toEqual([])
  })
})
