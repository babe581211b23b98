import { describe, expect, it } from 'vitest'
import { decide, decideEnvelope, IndexedPolicy, parseMessage, settleRefusals, type Policy, type Rule } from '#core'
import { envelope, letter, NOW, OURS, policy, TRUST } from '../../support/build'

const RECIPIENT = `oskar@${OURS}`
const refuse: Rule = {
  id: 'r',
  name: 'r',
  owner: 'person:oskar',
  state: 'enabled',
  when: { phrases: ['wheat'] },
  except: [],
  claims: [{ stop: { to: 'refuse', reply: 'No wheat here' } }],
}
const blocked = (more: Partial<Policy> = {}) =>
  policy({
    lists: [
      {
        id: 'l',
        name: 'L',
        owner: 'organisation',
        usualSide: 'block',
        enabled: true,
        entries: [{ id: 'e', kind: 'domain', value: 'sly.test' }],
      },
    ],
    assignments: [
      {
        id: 'b',
        list: 'l',
        owner: 'organisation',
        side: 'block',
        state: 'enabled',
        stop: { to: 'refuse', reply: '5.7.1 Not from there' },
      },
    ],
    ...more,
  })
const early = (p: Policy, over: Parameters<typeof envelope>[0] = {}, to = RECIPIENT) =>
  decideEnvelope(
    { envelope: envelope({ mailFrom: 'x@sly.test', ...over }), recipient: to, context: { now: NOW } },
    p,
    IndexedPolicy.build({ ...p, rules: [] }),
  )

describe('refusing: the sender would be told what is not so, or a wanted message turned away unseen', () => {
  it('refused for one and not for the other, the refusal becomes the bin; the answer is that it was taken', async () => {
    const m = await letter({ text: 'wheat' })
    const decisions = [RECIPIENT, `other@${OURS}`].map(r => decide(m, r, policy({ rules: [refuse] }), { now: NOW }))
    expect(settleRefusals(decisions)).toMatchObject({
      refusal: null,
      decisions: [
        { lane: 'bin', decidedLane: 'refused' },
        { lane: 'inbox', decidedLane: 'inbox' },
      ],
    })
    expect(settleRefusals([decisions[0]!]).refusal).toBe('5.7.1 No wheat here')
  })
  it('is given before the content only if the envelope suffices', () => {
    expect(early(blocked())?.lane).toBe('refused')
    expect(early(blocked(), { mailFrom: 'x@honest.test' })).toBeNull()
  })
  it('waits for the content where an earlier clause could still protect', () => {
    const keep: Rule = { ...refuse, id: 'k', when: { phrases: ['regatta'] }, claims: [{ protect: ['refuse'] }] }
    expect(early(blocked({ rules: [keep] }))).toBeNull()
    expect(early(blocked({ rules: [{ ...keep, state: 'disabled' }] }))?.lane).toBe('refused')
  })
  it('is never given by a list to a bounce or to postmaster', async () => {
    expect(early(blocked(), { mailFrom: '' })).toBeNull()
    expect(early(blocked(), {}, `postmaster@${OURS}`)).toBeNull()
    const bounce = await parseMessage(
      new TextEncoder().encode('From: <x@sly.test>\r\n\r\nx'),
      envelope({ mailFrom: '' }),
      TRUST,
    )
    expect(decide(bounce, RECIPIENT, blocked(), { now: NOW })).toMatchObject({
      lane: 'inbox',
      reasons: [{ outcome: { kind: 'notCounted', why: 'neverRefused' } }],
    })
  })
})

describe('releasing and outbound', () => {
  const hold = (id: string, owner: string, quarantine: string): Rule => ({
    id,
    name: id,
    owner,
    state: 'enabled',
    when: { every: true },
    except: [],
    claims: [{ stop: { to: 'quarantine', quarantine } }],
  })
  it('a release settles without the releaser’s stops, and another’s stands', async () => {
    const m = await letter()
    const p = policy({
      rules: [hold('a', 'department:accounts', 'accounts-hold'), hold('b', 'organisation', 'security')],
    })
    expect(decide(m, RECIPIENT, p, { now: NOW }).quarantine).toBe('accounts-hold')
    expect(decide(m, RECIPIENT, p, { now: NOW, release: { quarantines: ['accounts-hold'] } }).quarantine).toBe(
      'security',
    )
    const own: Rule = { ...hold('c', 'person:oskar', ''), claims: [{ place: { to: 'lowPriority' } }] }
    const alone = policy({ rules: [own, hold('a', 'department:accounts', 'accounts-hold')] })
    expect(decide(m, RECIPIENT, alone, { now: NOW, release: { quarantines: ['accounts-hold'] } }).lane).toBe('inbox')
    expect(
      decide(m, RECIPIENT, alone, { now: NOW, release: { quarantines: ['accounts-hold'], ownPlaces: true } }).lane,
    ).toBe('lowPriority')
  })
  it('outbound looks at the recipient by the sender’s clauses, and ends as sent, held or refused', async () => {
    const out = await parseMessage(
      new TextEncoder().encode(`From: ${RECIPIENT}\r\n\r\nx`),
      envelope({ client: '10.1.2.3', mailFrom: RECIPIENT, rcptTo: ['rival@sly.test'] }),
      TRUST,
    )
    expect(out.attempt.direction).toBe('outbound')
    const p = blocked({
      assignments: [
        {
          id: 'b',
          list: 'l',
          owner: 'person:oskar',
          side: 'block',
          state: 'enabled',
          direction: 'outbound',
          stop: { to: 'quarantine', quarantine: 'general' },
        },
      ],
    })
    for (const policyForm of [p, IndexedPolicy.build(p)]) {
      expect(decide(out, 'rival@sly.test', policyForm, { now: NOW }).lane).toBe('quarantine')
      expect(decide(out, 'friend@honest.test', policyForm, { now: NOW }).lane).toBe('sent')
    }
  })
})

describe('internal mail: a colleague’s copy would be decided by the wrong side, or by one side alone', () => {
  const SENDER = `rosa@${OURS}`
  const between = (rules: Rule[]) =>
    policy({
      people: [
        { id: 'oskar', name: 'Oskar', addresses: [RECIPIENT], departments: ['accounts'] },
        { id: 'rosa', name: 'Rosa', addresses: [SENDER], departments: ['berthing'] },
      ],
      rules,
    })
  const sent = () =>
    parseMessage(
      new TextEncoder().encode(
        `From: ${SENDER}\r\nTo: ${RECIPIENT}, pilot@elsewhere.example\r\nSubject: roster\r\n\r\nx`,
      ),
      envelope({ client: '10.1.2.3', mailFrom: SENDER, rcptTo: [RECIPIENT, 'pilot@elsewhere.example'] }),
      TRUST,
    )
  const rule = (id: string, owner: string, direction: Rule['direction'], claims: Rule['claims']): Rule => ({
    id,
    name: id,
    owner,
    state: 'enabled',
    direction,
    when: { phrases: ['roster'] },
    except: [],
    claims,
  })
  const each = async (p: Policy, recipient = RECIPIENT) => {
    const [byIndex, plainly] = [IndexedPolicy.build(p), p].map(form => decide(m, recipient, form, { now: NOW }))
    expect(byIndex).toEqual(plainly)
    return byIndex!
  }
  let m: Awaited<ReturnType<typeof sent>>
  it('one message to a colleague and to a stranger is internal for the one and outbound for the other', async () => {
    m = await sent()
    const p = between([
      rule('in', 'person:oskar', 'internal', [{ place: { to: 'folder', folder: 'Rosters' } }]),
      rule('inbound', 'person:oskar', 'inbound', [{ stop: { to: 'bin' } }]),
    ])
    expect(await each(p)).toMatchObject({
      lane: 'inbox',
      place: { folder: 'Rosters' },
      reasons: [{ clause: { id: 'in' } }],
    })
    expect(await each(p, 'pilot@elsewhere.example')).toMatchObject({ lane: 'sent', reasons: [] })
  })
  it('what holds the sender’s mail holds it before the reader’s clauses are asked', async () => {
    m = await sent()
    const p = between([
      rule('out', 'department:berthing', 'outbound', [{ stop: { to: 'quarantine', quarantine: 'general' } }]),
      rule('in', 'person:oskar', 'internal', [{ protect: ['spam', 'quarantine', 'delete', 'refuse'] }]),
    ])
    expect(await each(p)).toMatchObject({
      lane: 'quarantine',
      quarantine: 'general',
      reasons: [{ clause: { id: 'out' }, outcome: { kind: 'decided' } }],
    })
    // Oskar's department is not asked as the sender's.
    expect(
      (
        await each(
          between([
            rule('out', 'department:accounts', 'outbound', [{ stop: { to: 'quarantine', quarantine: 'general' } }]),
          ]),
        )
      ).lane,
    ).toBe('inbox')
  })
  it('effects of both sides apply, of rivals the sender’s; what the reader’s side stops keeps the others waiting', async () => {
    m = await sent()
    const prefix = (value: string) => ({ effect: { kind: 'subjectPrefix' as const, value } })
    const both = between([
      rule('out', 'organisation', 'outbound', [{ effect: { kind: 'header', value: 'X-Left: 1' } }, prefix('[out]')]),
      rule('in', 'person:oskar', 'internal', [prefix('[in]'), { effect: { kind: 'tag', value: 't' } }]),
    ])
    const r = await each(both)
    expect(r.effects.map(e => e.value)).toEqual(['X-Left: 1', '[out]', 't'])
    expect(r.reasons.map(x => x.outcome.kind)).toEqual(['applied', 'applied', 'comesAfter', 'applied'])
    const stopped = await each({
      ...both,
      rules: [...both.rules, rule('spam', 'person:oskar', 'internal', [{ stop: { to: 'spam' } }])],
    })
    expect([
      stopped.lane,
      stopped.effects.map(e => e.value),
      stopped.decidedBy === null ? null : stopped.reasons[stopped.decidedBy]!.clause.id,
    ]).toEqual(['spam', ['t'], 'spam'])
    expect(stopped.reasons.slice(0, 2).map(x => x.outcome.kind)).toEqual(['waiting', 'waiting'])
  })
})
