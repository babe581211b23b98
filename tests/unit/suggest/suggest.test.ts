import { describe, expect, it } from 'vitest'
import { decide, readPolicy, type Content, type Policy } from '#core'
import { apply, completed } from '#core/change'
import { draftChanges, presetOf, sharedPhrases, senderScopesOf, type Draft } from '#core/suggest'
import { letter, NOW, OURS, policy } from '../../support/build'

const OSKAR = 'person:oskar'
const contents = async (...letters: Parameters<typeof letter>[0][]) =>
  Promise.all(letters.map(async l => (await letter(l)).content))

describe('widths of the sender', () => {
  it('go from the address to what lies below the domain; the narrowest that catches all is meant', async () => {
    const both = await contents({ from: 'a@news.regatta.example' }, { from: 'b@news.regatta.example' })
    const scopes = senderScopesOf(both)
    expect(scopes.map(w => [w.kind, w.entries.map(e => e.value), w.catches])).toEqual([
      ['address', ['a@news.regatta.example', 'b@news.regatta.example'], 2],
      ['domain', ['news.regatta.example'], 2],
      ['domainAndSubdomains', ['regatta.example'], 2],
    ])
    expect(scopes[presetOf(scopes, 2)]!.kind).toBe('domain')
    const one = senderScopesOf(both.slice(0, 1))
    expect(one[presetOf(one, 1)]!.kind).toBe('address')
  })
  it('of a mailing list come before its domain, and what has none is not caught by it', async () => {
    const listed = { list: { id: 'news.regatta.example' } } as Content
    const [plain] = await contents({ from: 'a@x.test' })
    const scopes = senderScopesOf([{ ...plain!, ...listed, list: { ...plain!.list, id: 'news.regatta.example' } }, plain!])
    expect(scopes.find(w => w.kind === 'mailingList')).toMatchObject({ catches: 1 })
    expect(scopes[presetOf(scopes, 2)]!.kind).toBe('address')
  })
  it('of nobody are none', () => expect(senderScopesOf([{ from: [], list: { id: null } as Content['list'] }])).toEqual([]))
})

describe('phrases that examples share', () => {
  it('are those that the rest of the mail has not, whole and without what says nothing', async () => {
    const examples = await contents(
      { subject: 'Anchors, this week only', text: 'The chain you need is here. Best wishes' },
      { subject: 'Ropes, this week only', text: 'The rope you need is here. Best wishes' },
    )
    const others = await contents({ text: 'The berth is free. Best wishes' }, { text: 'you need to sign. Best wishes' })
    const found = sharedPhrases(examples, { against: others })
    expect(found[0]).toMatchObject({ text: 'this week only', of: 2 })
    expect(found.map(f => f.text)).not.toContain('best wishes')
    expect(found.length).toBeLessThanOrEqual(3)
    for (const a of found) for (const b of found) if (a !== b) expect(a.text.includes(b.text)).toBe(false)
  })
  it('have five words at most, and no punctuation inside: as phrases they would match nothing', async () => {
    const [one] = await contents({ subject: 'one two three four five six; seven, eight', text: '' })
    for (const { text } of sharedPhrases([one!], { against: [] }, 20)) {
      expect(text.split(' ').length).toBeLessThanOrEqual(5)
      expect(text).not.toMatch(/[;,]/)
    }
  })
  it('are never stop words alone: “your” stands in all kinds of mail', async () => {
    const examples = await Promise.all(
      [1, 2, 3].map(n => letter({ text: `your ${'x'.repeat(n)}berth. We, the; and. Ihre; aber`, subject: `${n}` })),
    )
    const others = await Promise.all([1, 2, 3].map(n => letter({ text: `harbour ${n}`, subject: `other ${n}` })))
    expect(sharedPhrases(examples.map(e => e.content), { against: others.map(o => o.content) }, 20)).toEqual([])
  })
  it('of no examples are none', () => expect(sharedPhrases([], { against: [] })).toEqual([]))
})

describe('a draft', () => {
  let next = 0
  const id = () => `made-${++next}`
  const made = (before: Policy, draft: Partial<Draft>) => {
    const whole: Draft = { senders: [{ kind: 'address', value: 'a@b.test' }], phrases: [], then: { to: 'spam' }, owner: OSKAR, ...draft }
    const changes = completed(draftChanges(before, whole, id), { id, now: NOW, by: null })
    const applied = apply(before, changes)
    if ('problems' in applied) throw new Error(JSON.stringify(applied.problems))
    const read = readPolicy(JSON.parse(JSON.stringify(applied.policy)))
    if ('problems' in read) throw new Error(JSON.stringify(read.problems))
    return { changes, after: read.policy }
  }
  const lane = async (after: Policy, over: Parameters<typeof letter>[0] = {}) =>
    decide(await letter({ from: 'a@b.test', ...over }), `oskar@${OURS}`, after, { now: NOW }).lane

  it('of a sender goes to the list Blocked, which is made once and then added to', async () => {
    const first = made(policy({}), {})
    expect(first.after.lists.map(l => l.name)).toEqual(['Blocked'])
    expect(await lane(first.after)).toBe('spam')
    const second = made(first.after, { senders: [{ kind: 'domain', value: 'c.test' }] })
    expect(second.changes).toHaveLength(1)
    expect(second.after.lists[0]!.entries.map(e => e.value)).toEqual(['a@b.test', 'c.test'])
  })
  it('to let in goes to Always in, of the same owner only', async () => {
    const blocked = made(policy({}), { owner: 'organisation' }).after
    const { after } = made(blocked, { then: { to: 'inbox' } })
    expect(after.lists.map(l => [l.name, l.owner])).toEqual([['Blocked', 'organisation'], ['Always in', OSKAR]])
    expect(await lane(after, { auth: 'pass' })).toBe('inbox')
    // Whoever else writes that From is not let in.
    expect(await lane(after)).toBe('spam')
  })
  it('to let in is not put on a list that also counts senders who are not verified', () => {
    const lax = made(policy({}), { then: { to: 'inbox' }, counts: 'notFailed' }).after
    expect(lax.assignments[0]!.counts).toBe('notFailed')
    const { after } = made(lax, { then: { to: 'inbox' }, senders: [{ kind: 'address', value: 'c@d.test' }] })
    expect(after.lists.map(l => l.name)).toEqual(['Always in', 'Always in 2'])
    expect(after.assignments[1]!.counts).toBeUndefined()
  })
  it('to another lane does not go to the list that sends to spam', async () => {
    const { after } = made(made(policy({}), {}).after, { senders: [{ kind: 'address', value: 'x@y.test' }], then: { to: 'bin' } })
    expect(after.lists.map(l => l.name)).toEqual(['Blocked', 'Blocked, to the bin'])
    expect(await lane(after, { from: 'x@y.test' })).toBe('bin')
    expect(await lane(after)).toBe('spam')
  })
  it('makes a list of another name where the one of that name is used otherwise', () => {
    const before = made(policy({}), {}).after
    const otherwise: Policy = { ...before, assignments: before.assignments.map(b => ({ ...b, state: 'disabled' as const })) }
    expect(
      made(otherwise, { senders: [{ kind: 'address', value: 'x@y.test' }] }).after.lists.map(l => l.name),
    ).toEqual(['Blocked', 'Blocked 2'])
  })
  it('with words is a rule with a name of its own; watched, it does nothing', async () => {
    const { after } = made(policy({}), { phrases: ['this week only'] })
    expect(after.rules[0]).toMatchObject({ name: '“this week only” from a@b.test', state: 'enabled' })
    expect(await lane(after, { subject: 'This week only!' })).toBe('spam')
    expect(await lane(after)).toBe('inbox')
    const twice = made(after, { phrases: ['this week only'] }).after
    expect(twice.rules.map(r => r.name)).toEqual(['“this week only” from a@b.test', '“this week only” from a@b.test 2'])
    expect(await lane(made(policy({}), { watch: true }).after)).toBe('inbox')
  })
  it('to a quarantine of the organisation is a must', () => {
    const { after } = made(policy({}), { phrases: ['x'], owner: 'organisation', then: { to: 'quarantine', quarantine: 'general' } })
    expect(after.rules[0]).toMatchObject({ mandatory: true })
  })
  it('of nothing is none', () => {
    const nothing: Draft = { senders: [], phrases: [], then: { to: 'spam' }, owner: OSKAR }
    expect(draftChanges(policy({}), nothing, id)).toEqual([])
  })
})
