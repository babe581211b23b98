// The worked cases of how a decision is made, every one of them. Points and what was learned are given, as whoever scores
// and learns would give them.
import { describe, expect, it } from 'vitest'
import {
  decide,
  parseMessage,
  settleRefusals,
  type Assignment,
  type Claim,
  type Condition,
  type Context,
  type List,
  type Rule,
  type Decision,
  type Message,
  type Policy,
} from '#core'
import { envelope, letter, NOW, OURS, policy, TRUST } from '../../support/build'

const O = 'organisation'
const P = 'person:oskar'
const D = 'department:accounts'
const SECOND = 'department:berthing'
const PARTNER = 'desk@partner.example'

let ids = 0
const rule = (owner: string, when: Condition, claims: Claim[], more: Partial<Rule> = {}): Rule => ({
  id: `r${++ids}`,
  name: `r${ids}`,
  owner,
  state: 'enabled',
  when,
  except: [],
  claims,
  ...more,
})
const listed = (
  kind: 'address' | 'domain' | 'everyone',
  value: string,
  assignment: Pick<Assignment, 'owner' | 'side'> & Partial<Assignment>,
): { list: List, assignment: Assignment } => {
  const id = `l${++ids}`
  return {
    list: {
      id,
      name: id,
      owner: assignment.owner,
      usualSide: assignment.side,
      enabled: true,
      entries: [{ id: `${id}e`, kind, value }],
    },
    assignment: { id: `${id}b`, list: id, state: 'enabled', ...assignment },
  }
}
const all = (...things: ({ list: List, assignment: Assignment } | Rule)[]): Policy =>
  policy({
    lists: things.flatMap(t => ('list' in t ? [t.list] : [])),
    assignments: things.flatMap(t => ('list' in t ? [t.assignment] : [])),
    rules: things.flatMap(t => ('list' in t ? [] : [t])),
  })
const to = (lane: 'spam' | 'bin' | 'refuse' | 'erase'): Claim => ({ stop: { to: lane } })
const hold = (quarantine: string): Claim => ({ stop: { to: 'quarantine', quarantine } })
const tag = (value: string): Claim => ({ effect: { kind: 'tag', value } })
const protect: Claim = { protect: ['spam', 'quarantine', 'delete', 'refuse'] }
const offer: Condition = { phrases: ['offers'] }

const LIKELY: Policy['thresholds'] = { likely: { at: 5, stop: { to: 'spam' } }, sure: { at: 9, stop: { to: 'spam' } } }
const scored = (p: Policy): Policy => ({ ...p, thresholds: LIKELY })
const at = (p: Policy, m: Message, known: Partial<Context> = {}): Decision =>
  decide(m, `oskar@${OURS}`, p, { now: NOW, ...known })
const outcomes = (r: Decision) =>
  r.reasons.map(
    x =>
      `${x.clause.name}: ${x.outcome.kind}${'by' in x.outcome ? ` by ${x.outcome.by.name}` : ''}`
      + (x.outcome.kind === 'notCounted' ? ` (${x.outcome.why})` : ''),
  )

describe('worked cases: a wanted message would be lost, or an unwanted one let in, if one failed', () => {
  it('1: a low priority rule of a person waits behind a block of the organisation', async () => {
    const slow = rule(P, { sender: { kind: 'domain', value: 'bulk.example' } }, [{ place: { to: 'lowPriority' } }])
    const block = listed('domain', 'bulk.example', { owner: O, side: 'block', stop: { to: 'spam' } })
    const r = at(all(slow, block), await letter({ from: 'news@bulk.example' }))
    expect(r.lane).toBe('spam')
    expect(outcomes(r)).toEqual([`${slow.name}: waiting`, `${block.list.name}: decided`])
  })

  it('2: the score stops what low priority would have taken', async () => {
    const slow = rule(P, { mailingList: true }, [{ place: { to: 'lowPriority' } }])
    const bulk = await parseMessage(
      new TextEncoder().encode('From: n@bulk.example\r\nList-Unsubscribe: <https://bulk.example/leave>\r\n\r\nx'),
      envelope(),
      TRUST,
    )
    const r = at(scored(all(slow)), bulk, { score: 11 })
    expect([r.lane, r.decidedBy !== null && r.reasons[r.decidedBy]!.clause.kind]).toEqual(['spam', 'score'])
    expect(outcomes(r)).toEqual([`${slow.name}: waiting`, 'sure: decided'])
  })

  it('3: a blocked address beats its allowed domain', async () => {
    const allow = listed('domain', 'shop.example', { owner: P, side: 'allow' })
    const block = listed('address', 'ads@shop.example', { owner: P, side: 'block', stop: { to: 'bin' } })
    const r = at(all(allow, block), await letter({ from: 'ads@shop.example', auth: 'pass' }))
    expect(r.lane).toBe('bin')
    expect(outcomes(r)).toEqual([
      `${block.list.name}: decided`,
      `${allow.list.name}: allowTooLate by ${block.list.name}`,
    ])
  })

  it('4 and 5: an allowed verified address holds a refusal of the organisation off, unless that is must', async () => {
    const allow = listed('address', PARTNER, { owner: P, side: 'allow' })
    const block = (mandatory: boolean) =>
      listed('domain', 'partner.example', {
        owner: O,
        side: 'block',
        stop: { to: 'refuse' },
        ...(mandatory ? { mandatory } : {}),
      })
    const m = await letter({ from: PARTNER, auth: 'pass' })
    const soft = block(false)
    const r4 = at(all(allow, soft), m)
    expect([r4.lane, r4.decidedBy !== null && r4.reasons[r4.decidedBy]!.clause.name]).toEqual([
      'inbox',
      allow.list.name,
    ])
    expect(outcomes(r4)).toEqual([`${allow.list.name}: protected`, `${soft.list.name}: overriddenBy by ${allow.list.name}`])
    const hard = block(true)
    const r5 = at(all(allow, hard), m)
    expect(r5.lane).toBe('refused')
    expect(outcomes(r5)).toEqual([
      `${hard.list.name}: decided`,
      `${allow.list.name}: allowTooLate by ${hard.list.name}`,
    ])
  })

  it('6: a must rule of the organisation comes before a must allow of a department', async () => {
    const exe = rule(O, { phrases: ['exe'] }, [hold('security')], { mandatory: true })
    const allow = listed('domain', 'partner.example', { owner: D, side: 'allow', mandatory: true })
    const r = at(all(allow, exe), await letter({ from: PARTNER, auth: 'pass', subject: 'setup exe' }))
    expect([r.lane, r.quarantine]).toEqual(['quarantine', 'security'])
    expect(outcomes(r)).toEqual([`${exe.name}: decided`, `${allow.list.name}: allowTooLate by ${exe.name}`])
  })

  it('7 and 8: lists come before a person’s rules, unless the rule is raised', async () => {
    const allow = listed('domain', 'partner.example', { owner: P, side: 'allow' })
    const plain = rule(P, offer, [to('bin')])
    const m = await letter({ from: PARTNER, text: 'our offers', auth: 'pass' })
    const r7 = at(all(allow, plain), m)
    expect([r7.lane, ...outcomes(r7)]).toEqual([
      'inbox',
      `${allow.list.name}: protected`,
      `${plain.name}: overriddenBy by ${allow.list.name}`,
    ])
    const overridesLists = { ...plain, overridesLists: true }
    const r8 = at(all(allow, overridesLists), m)
    expect([r8.lane, ...outcomes(r8)]).toEqual([
      'bin',
      `${plain.name}: decided`,
      `${allow.list.name}: allowTooLate by ${plain.name}`,
    ])
  })

  it('9: what a held-off rule would have done to the message is not done either', async () => {
    const bank = rule(D, { phrases: ['bank details'] }, [
      hold('accounts-hold'),
      { effect: { kind: 'replace', value: 'a notice' } },
      { effect: { kind: 'notify', value: 'sender' } },
    ])
    const allow = listed('address', PARTNER, { owner: P, side: 'allow' })
    const r = at(all(bank, allow), await letter({ from: PARTNER, text: 'new bank details', auth: 'pass' }))
    expect(r.lane).toBe('inbox')
    expect(r.effects).toEqual([])
    expect(outcomes(r)).toEqual([
      `${allow.list.name}: protected`,
      `${bank.name}: overriddenBy by ${allow.list.name}`,
      `${bank.name}: notApplied`,
      `${bank.name}: notApplied`,
    ])
  })

  it('10: a held message is not forwarded until it is released', async () => {
    const forward = rule(P, { every: true }, [{ effect: { kind: 'forward', value: 'home@post.example' } }])
    const exe = rule(O, { phrases: ['exe'] }, [hold('security')], { mandatory: true })
    const r = at(all(forward, exe), await letter({ text: 'run the exe' }))
    expect([r.lane, r.effects.length, ...outcomes(r)]).toEqual([
      'quarantine',
      0,
      `${exe.name}: decided`,
      `${forward.name}: waiting`,
    ])
  })

  it('11: an end silences the same owner’s later rules and nobody else’s', async () => {
    const a = rule(P, { every: true }, [tag('A')], { end: 'owner' })
    const b = rule(P, { every: true }, [tag('B')])
    const header = rule(O, { every: true }, [{ effect: { kind: 'header', value: 'X-Gate: seen' } }])
    const r = at(all(a, b, header), await letter())
    expect(r.effects.map(e => e.value)).toEqual(['A', 'X-Gate: seen'])
    expect(outcomes(r)).toEqual([`${a.name}: applied`, `${b.name}: notReached by ${a.name}`, `${header.name}: applied`])
  })

  it('12: of a person’s own rules the first decides, a later protection is too late', async () => {
    const spam = rule(P, offer, [to('spam')])
    const keep = rule(P, offer, [protect])
    const r = at(all(spam, keep), await letter({ text: 'offers' }))
    expect([r.lane, ...outcomes(r)]).toEqual([
      'spam',
      `${spam.name}: decided`,
      `${keep.name}: allowTooLate by ${spam.name}`,
    ])
  })

  it('13: the home department comes before the second one', async () => {
    const second = rule(SECOND, offer, [protect])
    const home = rule(D, offer, [hold('accounts-hold')])
    const r = at(all(second, home), await letter({ text: 'offers' }))
    expect([r.quarantine, ...outcomes(r)]).toEqual([
      'accounts-hold',
      `${home.name}: decided`,
      `${second.name}: allowTooLate by ${home.name}`,
    ])
  })

  it('14: an allow of the organisation does not count where authentication failed', async () => {
    const allow = listed('domain', 'partner.example', { owner: O, side: 'allow' })
    const r = at(scored(all(allow)), await letter({ from: PARTNER, auth: 'fail' }), { score: 6 })
    expect([r.lane, ...outcomes(r)]).toEqual(['spam', `${allow.list.name}: notCounted (notVerified)`, 'likely: decided'])
  })

  it('15: our own chief’s address never counts unless it passed, even on a person’s list', async () => {
    const allow = listed('address', `chief@${OURS}`, { owner: P, side: 'allow', counts: 'any' })
    const r = at(scored(all(allow)), await letter({ from: `chief@${OURS}` }), { score: 6 })
    expect([r.lane, ...outcomes(r)]).toEqual(['spam', `${allow.list.name}: notCounted (notVerified)`, 'likely: decided'])
  })

  it('16: a department’s closed door opens for a sender that the person allows', async () => {
    const envelopeLists = listed('everyone', '', { owner: D, side: 'block', stop: { to: 'refuse' } })
    const allow = listed('address', PARTNER, { owner: P, side: 'allow' })
    expect(at(all(envelopeLists, allow), await letter({ from: 'stranger@elsewhere.example' })).lane).toBe('refused')
    const r = at(all(envelopeLists, allow), await letter({ from: PARTNER, auth: 'pass' }))
    expect([r.lane, ...outcomes(r)]).toEqual([
      'inbox',
      `${allow.list.name}: protected`,
      `${envelopeLists.list.name}: overriddenBy by ${allow.list.name}`,
    ])
  })

  it('17: erasing yields to a later quarantine, so that evidence is kept; unconfirmed it is only the bin', async () => {
    const erase = rule(P, offer, [{ stop: { to: 'erase', confirmed: true } }])
    const keep = rule(O, offer, [hold('security')])
    const r = at(all(erase, keep), await letter({ text: 'offers' }))
    expect([r.quarantine, ...outcomes(r)]).toEqual([
      'security',
      `${erase.name}: replacedBy by ${keep.name}`,
      `${keep.name}: decided`,
    ])
    expect(at(all({ ...erase, claims: [to('erase')] }), await letter({ text: 'offers' })).lane).toBe('bin')
  })

  it('19: a watching rule does nothing and records what it would have done', async () => {
    const monitoring = rule(D, offer, [hold('accounts-hold')], { state: 'monitor', end: 'owner' })
    const later = rule(O, offer, [tag('seen')], { end: 'owner' })
    const r = at(all(monitoring, later), await letter({ text: 'offers' }))
    expect([r.lane, r.effects]).toEqual(['inbox', [{ kind: 'tag', value: 'seen' }]])
    expect(r.reasons[0]!.outcome).toMatchObject({
      kind: 'monitored',
      changes: true,
      would: { lane: 'quarantine', quarantine: 'accounts-hold' },
    })
  })

  it('18: refused for one recipient and not for the other, the refusal becomes the bin', async () => {
    const refuse = rule(P, offer, [to('refuse')])
    const m = await letter({ text: 'offers' })
    const envelopeLists = settleRefusals([`oskar@${OURS}`, `other@${OURS}`].map(r => decide(m, r, all(refuse), { now: NOW })))
    expect(envelopeLists).toMatchObject({
      refusal: null,
      decisions: [
        { lane: 'bin', decidedLane: 'refused' },
        { lane: 'inbox', decidedLane: 'inbox' },
      ],
    })
  })

  it('20: learned low priority takes bulk mail, unless the recipient keeps it in the inbox', async () => {
    const m = await letter({ from: 'news@bulk.example', auth: 'pass' })
    const learned = { score: 1, learned: { certainty: 0.9 } }
    const a = at(scored(all()), m, learned)
    expect([a.lane, ...outcomes(a), a.decidedBy !== null && a.reasons[a.decidedBy]!.clause.kind]).toEqual([
      'lowPriority',
      'low priority: placed',
      'learned',
    ])
    const keep = rule(P, { sender: { kind: 'domain', value: 'bulk.example' } }, [protect, { place: { to: 'inbox' } }])
    const b = at(scored(all(keep)), m, learned)
    expect([b.lane, ...outcomes(b)]).toEqual([
      'inbox',
      `${keep.name}: protected`,
      `${keep.name}: placed`,
      `low priority: comesAfter by ${keep.name}`,
    ])
  })

  it('21: an exception on a switched-off list spares nobody', async () => {
    const partners: List = {
      id: 'partners',
      name: 'Partners',
      owner: O,
      usualSide: 'allow',
      enabled: false,
      entries: [{ id: 'e', kind: 'address', value: PARTNER }],
    }
    const stop = rule(O, offer, [to('spam')], { except: [{ senderOn: 'partners' }] })
    const m = await letter({ from: PARTNER, text: 'offers', auth: 'pass' })
    expect(at(policy({ lists: [partners], rules: [stop] }), m).lane).toBe('spam')
    const on = at(policy({ lists: [{ ...partners, enabled: true }], rules: [stop] }), m)
    expect([on.lane, on.reasons[0]!.outcome.kind]).toEqual(['inbox', 'excepted'])
  })

  it('22: words that the reader cannot see protect nobody', async () => {
    const keep = rule(P, { phrases: ['regatta'] }, [protect])
    const m = await letter({ html: '<p>offers</p><p style="display:none">regatta</p>' })
    const r = at(scored(all(keep)), m, { score: 6 })
    expect([r.lane, ...outcomes(r)]).toEqual(['spam', `${keep.name}: notCounted (hiddenText)`, 'likely: decided'])
    expect(at(scored(all(keep)), m, { score: 1 }).lane).toBe('inbox')
  })

  it('23: an exception for a partner does not spare a message that only claims to be theirs', async () => {
    const partners: List = {
      id: 'partners',
      name: 'Partners',
      owner: O,
      usualSide: 'allow',
      enabled: true,
      entries: [{ id: 'e', kind: 'address', value: PARTNER }],
    }
    const stop = rule(O, offer, [to('spam')], { except: [{ senderOn: 'partners' }] })
    const r = at(
      policy({ lists: [partners], rules: [stop] }),
      await letter({ from: PARTNER, text: 'offers', auth: 'fail' }),
    )
    expect(r.lane).toBe('spam')
    expect(r.reasons[0]!.lostExceptions).toMatchObject([
      { why: 'notVerified', evidence: [{ kind: 'sender', address: PARTNER }] },
    ])
  })
})

describe('order and settling', () => {
  it('must of a wider department comes first, the person’s own before the department’s', async () => {
    const wide = rule('department:office', offer, [hold('security')], { mandatory: true })
    const near = rule(D, offer, [hold('accounts-hold')], { mandatory: true })
    const r = at(all(near, wide), await letter({ text: 'offers' }))
    expect(outcomes(r)).toEqual([`${wide.name}: decided`, `${near.name}: comesAfter by ${wide.name}`])
    const own = rule(P, offer, [to('bin')])
    expect(at(all({ ...near, mandatory: false }, own), await letter({ text: 'offers' })).lane).toBe('bin')
  })

  it('a block looks at Sender and the envelope too, an allow at From alone', async () => {
    const block = listed('domain', 'sly.test', { owner: O, side: 'block', stop: { to: 'spam' } })
    expect(at(all(block), await letter({ mailFrom: 'x@sly.test' })).lane).toBe('spam')
    expect(at(all(block), await letter({ sender: 'x@sly.test' })).lane).toBe('spam')
    const allow = listed('domain', 'partner.example', { owner: P, side: 'allow' })
    const stop = rule(O, offer, [to('spam')])
    expect(
      at(all(allow, stop), await letter({ from: 'x@sly.test', sender: PARTNER, mailFrom: PARTNER, text: 'offers' }))
        .lane,
    ).toBe('spam')
  })

  it('an expired entry is told and does not count', async () => {
    const block = listed('domain', 'sly.test', { owner: O, side: 'block', stop: { to: 'spam' } })
    block.list.entries[0]!.expires = '2026-11-24T08:59:59Z'
    const r = at(all(block), await letter({ from: 'x@sly.test' }))
    expect([r.lane, ...outcomes(r)]).toEqual(['inbox', `${block.list.name}: notCounted (expired)`])
  })

  it('the same inputs give the same ruling byte for byte', async () => {
    const p = all(
      rule(O, offer, [to('spam'), tag('x')]),
      listed('domain', 'partner.example', { owner: P, side: 'allow' }),
    )
    const m = await letter({ from: PARTNER, text: 'offers and offers' })
    expect(JSON.stringify(at(p, m))).toBe(JSON.stringify(at(p, m)))
  })
})
