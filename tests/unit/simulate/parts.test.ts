import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { compilePolicy, decide, IndexedPolicy, type Condition, type Message, type Policy, type Rule } from '#core'
import { partsOf, PartCounter, type Part } from '#core/simulate'
import { arbitraryPolicy } from '../../support/arbitrary'
import { letter, NOW, OURS, policy } from '../../support/build'
import { severalParsed } from '../../support/parsed'

const TO = `oskar@${OURS}`
const NONE = { wanted: 0, unwanted: 0, unmarked: 0 }

function rule(when: Condition, over: Partial<Rule> = {}): Rule {
  return { id: 'r', name: 'r', owner: 'organisation', state: 'enabled', when, except: [], claims: [{ stop: { to: 'spam' } }], ...over }
}

/** Whether a rule catches a copy: asked plainly, of a policy in which it stands alone. */
function catches(base: Policy, one: Rule, message: Message): boolean {
  const alone = { ...base, assignments: [], rules: [{ ...one, state: 'enabled' as const, end: undefined }] }
  const { reasons } = decide(message, TO, compilePolicy(alone), { now: NOW })
  return reasons.some(r => r.clause.id === one.id && r.outcome.kind !== 'excepted' && r.outcome.kind !== 'notCounted')
}

describe('the parts of a rule', () => {
  it('are counted as if each stood alone, and as if it were not there: nobody takes out the wrong phrase', () => {
    fc.assert(
      fc.property(arbitraryPolicy, severalParsed(4), fc.nat(20), (base, messages, at) => {
        const asked = base.rules[at % Math.max(1, base.rules.length)]
        if (!asked || (asked.direction ?? 'inbound') !== 'inbound') return
        const parts = partsOf(asked)
        const counter = new PartCounter(IndexedPolicy.build(base), asked, parts)
        for (const message of messages) counter.add({ message, recipient: TO, judgement: 'wanted' }, NOW)
        const n = (holds: (m: Message) => boolean) => messages.filter(holds).length
        const whole = (m: Message) => catches(base, asked, m)
        const got = counter.report()
        expect(got.whole.wanted).toBe(n(whole))
        parts.forEach((p: Part, i) => {
          const { catches: found, only } = got.parts[i]!
          const without = (m: Message) => p.without !== null && catches(base, p.without, m)
          if (p.alone) expect([p.path, p.phrase, found.wanted]).toEqual([p.path, p.phrase, n(m => catches(base, p.alone!, m))])
          if (!p.without) expect(only).toBeNull()
          else if (p.path.startsWith('except')) expect(only!.wanted).toBe(n(m => without(m) && !whole(m)))
          else expect(only!.wanted).toBe(n(m => whole(m) && !without(m)))
        })
      }),
      { seed: 5, numRuns: 250 },
    )
  })

  it('tell wanted, unwanted and unjudged apart, phrase by phrase; one that another always stands beside catches nothing by itself '
    + 'alone', async () => {
    const asked = rule({ phrases: ['handling fee', 'fee', 'gale'] })
    const counter = new PartCounter(IndexedPolicy.build(policy()), asked, partsOf(asked))
    const say = async (text: string, judgement: 'wanted' | 'unwanted' | null) =>
      counter.add({ message: await letter({ text }), recipient: TO, judgement }, NOW)
    await say('a handling fee', 'wanted')
    await say('a fee', 'unwanted')
    await say('a gale', null)
    expect(await say('nothing', 'wanted')).toBe(false)
    const { whole, parts } = counter.report()
    expect(whole).toEqual({ wanted: 1, unwanted: 1, unmarked: 1 })
    expect(parts.map(p => [p.phrase, p.catches, p.only])).toEqual([
      ['handling fee', { wanted: 1, unwanted: 0, unmarked: 0 }, { wanted: 0, unwanted: 0, unmarked: 0 }],
      ['fee', { wanted: 1, unwanted: 1, unmarked: 0 }, { wanted: 0, unwanted: 1, unmarked: 0 }],
      ['gale', { wanted: 0, unwanted: 0, unmarked: 1 }, { wanted: 0, unwanted: 0, unmarked: 1 }],
    ])
  })

  it('say of an exception whom it spares', async () => {
    const asked = rule({ phrases: ['fee'] }, { except: [{ sender: { kind: 'domain', value: 'partner.example' } }] })
    const counter = new PartCounter(IndexedPolicy.build(policy()), asked, partsOf(asked))
    const say = async (from: string, auth?: 'pass') => counter.add(
      { message: await letter({ from, auth, text: 'a fee' }), recipient: TO, judgement: 'wanted' },
      NOW,
    )
    await say('a@partner.example', 'pass')
    // Not verified: it does not count, and is not exempted.
    await say('a@partner.example')
    await say('b@elsewhere.example')
    expect(counter.report()).toEqual({
      whole: { wanted: 2, unwanted: 0, unmarked: 0 },
      parts: [
        {
          path: 'except.0',
          phrase: null,
          catches: { wanted: 1, unwanted: 0, unmarked: 0 },
          excepted: NONE,
          only: { wanted: 1, unwanted: 0, unmarked: 0 },
        },
      ],
    })
  })

  it('say of a phrase how often it was found under an exception: it would look as if it were found nowhere', async () => {
    const asked = rule(
      { phrases: ['fee', 'gale'] },
      { except: [{ sender: { kind: 'domain', value: 'partner.example' }, counts: 'any' }] },
    )
    const counter = new PartCounter(IndexedPolicy.build(policy()), asked, partsOf(asked))
    const say = async (from: string, text: string, judgement: 'wanted' | null) =>
      counter.add({ message: await letter({ from, text }), recipient: TO, judgement }, NOW)
    await say('a@partner.example', 'a gale', 'wanted')
    await say('b@partner.example', 'another gale', null)
    await say('c@elsewhere.example', 'a fee', null)
    const found = new Map(counter.report().parts.map(p => [p.phrase, p]))
    expect(found.get('gale')).toMatchObject({ catches: NONE, excepted: { wanted: 1, unwanted: 0, unmarked: 1 } })
    expect(found.get('fee')).toMatchObject({ catches: { ...NONE, unmarked: 1 }, excepted: NONE })
  })

  it('say of a phrase under “any of these” what it catches itself, and not what the other conditions do', async () => {
    const asked = rule({ any: [{ phrases: ['fee', 'gale'] }, { authentication: 'none' }] })
    const counter = new PartCounter(IndexedPolicy.build(policy()), asked, partsOf(asked))
    for (const text of ['a fee', 'nothing of it', 'nothing either'])
      counter.add({ message: await letter({ text }), recipient: TO, judgement: 'wanted' }, NOW)
    const result = counter.report().parts.map(p => [p.path, p.phrase, p.catches.wanted])
    expect(result).toEqual([['when.0', null, 1], ['when.1', null, 3], ['when.0', 'fee', 1], ['when.0', 'gale', 0]])
  })

  it('of a rule of one phrase and one condition there are none to tell apart', () => {
    expect(partsOf(rule({ phrases: ['fee'] }))).toEqual([])
    expect(partsOf(rule({ all: [{ phrases: ['fee'] }] }))).toEqual([])
    expect(partsOf(rule({ none: [{ phrases: ['a', 'b'] }] }))).toEqual([])
  })

  it('are bounded by what all of them together would be written with: a large rule is no load on anybody else', () => {
    const phrases = (n: number, word = 'phrase') => Array.from({ length: n }, (_, i) => `${word} ${i}`)
    const written = (parts: Part[]) => JSON.stringify(parts.map(p => [p.alone?.when, p.without?.when])).length
    const many = partsOf(rule({ phrases: phrases(1000) }))
    expect(many).toHaveLength(500)
    expect(many.every(p => p.without === null)).toBe(true)
    expect(partsOf(rule({ phrases: phrases(100) })).every(p => p.alone && p.without)).toBe(true)
    const wide = rule({ all: Array.from({ length: 10 }, (_, i) => ({ phrases: phrases(1000, `word ${i}`) })) })
    const long = rule({ any: Array.from({ length: 3000 }, (_, i) => ({ phrases: [`word ${i}`] })) })
    for (const one of [many, partsOf(wide), partsOf(long)]) expect(written(one)).toBeLessThan(3_000_000)
    // What is counted of it is counted right: conditions before phrases.
    expect(partsOf(wide).slice(0, 2).map(p => [p.path, p.phrase])).toEqual([['when.0', null], ['when.1', null]])
  })
})
