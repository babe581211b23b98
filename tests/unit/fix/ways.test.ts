import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  compilePolicy,
  decide,
  leavesOf,
  replacedLeaves,
  withoutPhrases,
  type Condition,
  type Message,
  type Policy,
} from '#core'
import { apply, completed } from '#core/change'
import {
  causesOf,
  candidatesFor,
  FIX_KINDS,
  priceOf,
  rankFixes,
  rankWords,
  ratesOf,
  senderMarksOf,
  type FixKind,
  type Price,
  type Ranked,
} from '#core/fix'
import { arbitraryPolicy } from '../../support/arbitrary'
import { letter, NOW, OURS, policy } from '../../support/build'
import { severalParsed } from '../../support/parsed'

const OSKAR = `oskar@${OURS}`
const numbered = () => {
  let n = 0
  return () => `made-${++n}`
}
const NARROWING: ReadonlySet<FixKind> = new Set(
  ['near', 'other place', 'whole words', 'phrase out', 'exception: address', 'exception: domain', 'exception: recipient'],
)

/** Rules that match a message, with nothing that exempts it. */
function catches(policy: Policy, message: Message): Set<string> {
  const { reasons } = decide(message, OSKAR, compilePolicy(policy), { now: NOW })
  return new Set(
    reasons.filter(r => r.clause.kind === 'rule' && r.outcome.kind !== 'excepted' && r.outcome.kind !== 'notCounted').map(r => r.clause.id),
  )
}

describe('a rule that is narrowed by a correct', () => {
  it('catches nothing that it did not catch before: nobody loses mail to a correct of somebody else’s', () => {
    let tried = 0
    fc.assert(
      fc.property(arbitraryPolicy, severalParsed(4), (policy, messages) => {
        const caused = causesOf({ id: 1, message: messages[0]!, recipient: OSKAR, should: 'delivered' }, compilePolicy(policy), NOW)
        if (caused.right) return
        const company = new Map(policy.rules.map(r => [`rule ${r.id}`, ['offers']]))
        for (const { kind, changes, sentence } of candidatesFor(policy, [caused], { owners: [], id: numbered(), company })) {
          if (!NARROWING.has(kind)) continue
          const applied = apply(policy, completed(changes, { id: numbered(), now: NOW, by: null }))
          if ('problems' in applied) continue
          tried++
          const touched = changes.flatMap(c => (c.type === 'put' && c.kind === 'rule' ? [c.value.id!] : []))
          for (const message of messages) {
            const before = catches(policy, message)
            for (const id of catches(applied.policy, message)) if (touched.includes(id)) expect([...before], sentence).toContain(id)
          }
        }
      }),
      { seed: 61, numRuns: 2500 },
    )
    expect(tried).toBeGreaterThan(60)
  })

  it('keeps what stands under “none of these” as it is: taken out there, it would catch more', () => {
    const when: Condition = { all: [{ phrases: ['fee'] }, { none: [{ phrases: ['fee note', 'invoice'] }] }] }
    expect(leavesOf(when)).toEqual([{ phrases: ['fee'] }])
  })

  it('never becomes “all of” the rest where one of its conditions can match nothing any more', () => {
    const phrase: Condition = { phrases: ['fee'] }
    const both: Condition = { all: [phrase, { every: true }] }
    expect(replacedLeaves(both, c => withoutPhrases(c, new Set(['fee'])))).toBeNull()
    expect(
      replacedLeaves({ any: [phrase, { phrases: ['due', 'fee'] }] }, c => withoutPhrases(c, new Set(['fee']))),
    ).toEqual({ any: [{ phrases: ['due'] }] })
    // What does not change is the same object.
    expect(replacedLeaves(both, c => c)).toBe(both)
  })
})

describe('the ways that are offered', () => {
  const HOLD = [{ stop: { to: 'quarantine', quarantine: 'general' } }]
  const offered = async (clauses: object, message: Message, company = new Map<string, string[]>()) => {
    const known = policy(clauses as never)
    const caused = causesOf({ id: 1, message, recipient: OSKAR, should: 'delivered' }, compilePolicy(known), NOW)
    return candidatesFor(known, [caused], { owners: [{ owner: 'organisation', name: 'everybody' }], id: numbered(), company })
  }
  const rule = (when: object, mandatory = false) => ({
    rules: [{ id: 'r', name: 'Fees', owner: 'organisation', mandatory, state: 'enabled', when, except: [], claims: HOLD }],
  })

  it('have one of each kind that fits: address, domain, phrase, company, place, reader, and the clause itself', async () => {
    const message = await letter({ from: 'a@quayline.example', subject: 'A handling fee', text: 'nothing', auth: 'pass' })
    const kinds = (await offered(
      rule({ phrases: ['handling fee', 'release fee'] }),
      message,
      new Map([['rule r', ['container']]]),
    )).map(c => c.kind)
    for (const kind of [
      'exception: address',
      'exception: domain',
      'exception: recipient',
      'phrase out',
      'near',
      'other place',
      'disabled',
      'sender: address',
    ])
      expect(kinds).toContain(kind)
  })

  it.each(['fail', undefined] as const)('credit no sender that nothing verified (%s): a forger would be let in by his victim’s name', async (auth) => {
    const message = await letter({ from: 'a@quayline.example', text: 'a handling fee', ...(auth ? { auth } : {}) })
    const found = await offered(rule({ phrases: ['handling fee', 'release fee'] }), message)
    expect(found.map(c => c.kind).filter(k => /^(?:sender|exception): (?!recipient)/.test(k))).toEqual([])
    // What is offered besides opens the way for more than this message, and says so.
    expect(found.length).toBeGreaterThan(0)
    for (const { opens } of found) expect(opens).toBeDefined()
    // Nothing that is mandatory is loosened from such a message.
    expect(await offered(rule({ phrases: ['handling fee', 'release fee'] }, true), message)).toEqual([])
  })

  it('of a mandatory rule except no recipient, and whom they except only if verified', async () => {
    const message = await letter({ from: 'a@quayline.example', text: 'a handling fee', auth: 'pass' })
    const found = await offered(rule({ phrases: ['handling fee'] }, true), message)
    expect(found.map(c => c.kind)).not.toContain('exception: recipient')
    const address = found.find(c => c.kind === 'exception: address')!
    expect(address.sentence).toBe('Add an exception for a@quayline.example, if verified, to rule “Fees”')
    const known = policy(rule({ phrases: ['handling fee'] }, true) as never)
    const applied = apply(known, completed(address.changes, { id: numbered(), now: NOW, by: null }))
    if ('problems' in applied) throw new Error('not applied')
    const laneOf = async (auth: 'pass' | 'fail' | undefined) =>
      decide(await letter({ from: 'a@quayline.example', text: 'a handling fee', ...(auth ? { auth } : {}) }), OSKAR,
        compilePolicy(applied.policy), { now: NOW }).lane
    expect([await laneOf('pass'), await laneOf('fail'), await laneOf(undefined)]).toEqual(['inbox', 'quarantine', 'quarantine'])
  })

  it('fix a copy that two clauses stopped at both, of whatever kind', async () => {
    const message = await letter({ from: 'a@quayline.example', subject: 'Dues', text: 'a handling fee', auth: 'pass' })
    const block = { lists: [{ id: 'l', name: 'L', owner: 'organisation', usualSide: 'block', enabled: true,
      entries: [{ id: 'e', kind: 'domain', value: 'quayline.example' }, { id: 'e2', kind: 'address', value: 'a@quayline.example' }] }],
    assignments: [{ id: 'b', list: 'l', owner: 'organisation', side: 'block', state: 'enabled', stop: { to: 'spam' } }] }
    for (const mandatory of [false, true]) {
      const both = { ...rule({ phrases: ['handling fee', 'release fee'] }, mandatory), ...block }
      const known = policy(both as never)
      const lanes = (await offered(both, message)).map(({ changes }) => {
        const applied = apply(known, completed(changes, { id: numbered(), now: NOW, by: null }))
        return 'problems' in applied ? 'problem' : decide(message, OSKAR, compilePolicy(applied.policy), { now: NOW }).lane
      })
      expect(lanes).toContain('inbox')
    }
  })

  it('change a phrase where it stands: in the set that several rules use, and not in the rule', async () => {
    const message = await letter({ text: 'a handling fee', auth: 'pass' })
    const found = await offered(
      { ...rule({ set: 's' }), phraseSets: [{ id: 's', name: 'Fee words', owner: 'organisation', phrases: ['handling fee', 'dues'] }] },
      message,
    )
    const out = found.find(c => c.kind === 'phrase out')!
    expect(out.sentence).toBe('Remove “handling fee” from phrase set “Fee words”')
    expect(out.changes).toEqual([{ type: 'put', kind: 'phraseSet', value: expect.objectContaining({ id: 's', phrases: ['dues'] }) }])
  })

  it('leave a set that would hold nothing, and a phrase that keeps other company', async () => {
    const message = await letter({ text: 'a handling fee for the crane' })
    const set = await offered(
      { ...rule({ set: 's' }), phraseSets: [{ id: 's', name: 'One', owner: 'organisation', phrases: ['handling fee'] }] },
      message,
    )
    expect(set.map(c => c.kind)).not.toContain('phrase out')
    const near = rule({ phrases: [{ text: 'handling fee', near: { phrases: ['crane'] } }] })
    expect((await offered(near, message, new Map([['rule r', ['container']]]))).map(c => c.kind)).not.toContain('near')
  })

  it('are none where it ends as it should, and where nothing is to blame that can be changed', async () => {
    const message = await letter({ text: 'harmless' })
    expect(await offered(rule({ phrases: ['handling fee'] }), message)).toEqual([])
  })
})

describe('a price', () => {
  const RATES = { unwantedStopped: 0.8, wantedDelivered: 0.9 }
  const NONE = { wanted: 0, unwanted: 0, unmarked: 0 }
  const FREE: Price = { moves: 0, moved: NONE, notVerified: 0, rights: 0, wrongs: 0, harm: 0, crossed: 0 }

  it('counts judged mail that would end wrongly, and of the unjudged the archive’s share; what stays stopped costs nothing', () => {
    const lanes = [
      { from: 'quarantine' as const, to: 'inbox' as const, wanted: 9, unwanted: 2, unmarked: 10, notVerified: 4 },
      { from: 'quarantine' as const, to: 'spam' as const, wanted: 5, unwanted: 5, unmarked: 5, notVerified: 3 },
      { from: 'inbox' as const, to: 'spam' as const, wanted: 1, unwanted: 3, unmarked: 0, notVerified: 2 },
    ]
    const back = { wanted: 9, unwanted: 2, unmarked: 10 }
    expect(priceOf(lanes, 'delivered', RATES)).toEqual({ moves: 21, moved: back, notVerified: 4, rights: 9, wrongs: 2, harm: 2 + 8 + 1, crossed: 25 })
    const away = { wanted: 1, unwanted: 3, unmarked: 0 }
    expect(priceOf(lanes, 'stopped', RATES)).toEqual({ moves: 4, moved: away, notVerified: 4, rights: 3, wrongs: 1, harm: 11, crossed: 25 })
  })

  it.each([
    ['releases 21 messages, 2 of them marked unwanted', 'delivered', { moves: 21, wrongs: 2 }, 1],
    ['releases 1 message, none of them marked unwanted', 'delivered', { moves: 1, wrongs: 0 }, 1],
    ['stops 4 messages, 1 of them marked wanted', 'stopped', { moves: 4, wrongs: 1 }, 1],
    ['fixes 1 of 3; stops 4 messages, none of them marked wanted', 'stopped', { moves: 4, wrongs: 0 }, 3],
    ['releases 9 messages, none of them marked unwanted, 2 of them not verified', 'delivered', { moves: 9, wrongs: 0, notVerified: 2 }, 1],
  ] as const)('reads “%s”', (words, should, price, mistakes) => {
    expect(rankWords({ kind: 'phrase out', fixes: 1, price: { ...FREE, ...price } }, should, mistakes)).toBe(words)
  })

  it('of unmarked mail counts what was marked of its sender: the rest of an invoice sender’s mail is no likely fraud', () => {
    const rates = {
      unwantedStopped: 0.8,
      wantedDelivered: 0.9,
      senders: senderMarksOf([
        { sender: 'a@x.test', judgement: 'wanted', verified: true, copies: 3 },
        { sender: 'a@x.test', judgement: 'unwanted', verified: false, copies: 4 },
      ]),
    }
    const harm = (to: 'letIn' | 'stopped', sender: string | null, isMarked = false) =>
      priceOf([], 'delivered', rates, new Map([[1, { to, sender, isMarked }]])).harm
    expect(harm('letIn', 'a@x.test')).toBeCloseTo(0.8 / 4)
    // A From that nothing verified, or of which nothing was marked, is anybody's.
    expect(harm('letIn', null)).toBe(0.8)
    expect(harm('letIn', 'b@x.test')).toBe(0.8)
    // What speaks against a sender counts verified or not.
    expect(harm('stopped', 'a@x.test')).toBeCloseTo((3 + 0.9) / 8)
    expect(harm('letIn', 'a@x.test', true)).toBe(1)
  })
  it('takes few marks for what they are: who marked nothing but mistakes has not said that all that was stopped is wanted', () => {
    const { unwantedStopped, wantedDelivered } = ratesOf([{ lane: 'spam', judgement: 'wanted', copies: 5 }])
    expect(unwantedStopped).toBeCloseTo(9 / 15)
    expect(wantedDelivered).toBeCloseTo(0.9)
  })

  it('ranks by harm for each mistake that it corrects, then by what it corrects, then the narrower; what corrects nothing is none', () => {
    const fix = (kind: FixKind, fixes: number, harm: number, over: Partial<Ranked> = {}): Ranked => ({
      kind,
      fixes,
      price: { ...FREE, harm, crossed: fixes + harm },
      ...over,
    })
    // Eleven of thirteen without harm come before thirteen of thirteen that let 221 messages in.
    const wanted = [
      fix('exception: domain', 11, 0),
      fix('near', 2, 0),
      fix('exception: address', 2, 0.2),
      fix('exception: mailingList', 2, 0.2),
      fix('phrase out', 13, 221),
      fix('sender: domain', 13, 0, { publicProvider: 'gmx.de' }),
      fix('exception: recipient', 13, 0.5, { opens: 'recipient' }),
    ]
    const others = [fix('entry out', 0, 0)]
    for (const order of [[...wanted, ...others], [...others, ...wanted].reverse(), [...wanted.slice(3), ...others, ...wanted.slice(0, 3)]])
      expect(rankFixes(order, 13)).toEqual(wanted)
    expect(new Set(FIX_KINDS).size).toBe(FIX_KINDS.length)
    for (const kind of wanted.slice(5)) expect(rankWords(kind, 'delivered', 13)).toMatch(/\. Anyone can/)
    expect(rankWords(wanted[4]!, 'delivered', 13)).toMatch(/It probably causes more mistakes than it fixes/)
  })

  it('puts what is in one’s power before what can only be proposed, where it suffices and corrects more than it harms', () => {
    const fix = (own: boolean, harm: number, fixes = 2): Ranked => ({ kind: 'near', fixes, own, price: { ...FREE, harm, crossed: fixes + harm } })
    const [asked, own, harmful, half] = [fix(false, 0), fix(true, 1), fix(true, 2.5), fix(true, 0.9, 1)]
    expect(rankFixes([asked, own, half], 2)).toEqual([own, asked, half])
    expect(rankFixes([asked, harmful], 2)).toEqual([asked, harmful])
  })
})
