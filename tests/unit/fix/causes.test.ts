import { describe, expect, it } from 'vitest'
import { compilePolicy, decide, type Assignment, type Message, type Policy, type Rule } from '#core'
import { apply, completed } from '#core/change'
import { causesOf, candidatesFor, type Should } from '#core/fix'
import { letter, NOW, OURS, policy } from '../../support/build'

const OSKAR = `oskar@${OURS}`
const SPAM = [{ stop: { to: 'spam' as const } }]
const PROTECT = [{ protect: ['spam' as const, 'quarantine' as const, 'delete' as const, 'refuse' as const] }]
const rule = (id: string, over: Partial<Rule> = {}): Rule => ({
  id,
  name: id.toUpperCase(),
  owner: 'organisation',
  state: 'enabled',
  when: { phrases: ['a text'] },
  except: [],
  claims: SPAM,
  ...over,
})
const list = (id: string, value: string, assignment: Partial<Assignment>) => ({
  lists: [{
    id,
    name: id.toUpperCase(),
    owner: assignment.owner ?? 'organisation',
    usualSide: assignment.side ?? 'block',
    enabled: true,
    entries: [{ id: `${id}e`, kind: 'domain', value }],
  }],
  assignments: [{
    id: `${id}b`,
    list: id,
    owner: 'organisation',
    side: 'block',
    state: 'enabled',
    ...(assignment.side === 'allow' ? {} : { stop: { to: 'spam' } }),
    ...assignment,
  }],
})
const made = () => {
  let n = 0
  return () => `made-${++n}`
}

async function caused(clauses: object, should: Should = 'delivered', message?: Message) {
  const known = policy(clauses as never)
  const found = causesOf(
    { id: 1, message: message ?? (await letter({ auth: 'pass' })), recipient: OSKAR, should },
    compilePolicy(known),
    NOW,
  )
  return { known, found, sets: found.sets.map(s => s.map(c => c.id).sort().join('+')).sort() }
}

/** Where the copy ends once a change is active. */
function laneAfter(known: Policy, message: Message, changes: Parameters<typeof completed>[0]) {
  const applied = apply(known, completed(changes, { id: made(), now: NOW, by: null }))
  if ('problems' in applied) throw new Error(JSON.stringify(applied.problems))
  return decide(message, OSKAR, compilePolicy(applied.policy), { now: NOW }).lane
}

describe('to blame, for mail that was stopped', () => {
  it('is the one rule that stops it', async () => {
    expect((await caused({ rules: [rule('a')] })).sets).toEqual(['a'])
  })

  it('are two that each stop it, together: without one of them it would still not have come', async () => {
    expect((await caused({ rules: [rule('a'), rule('b', { claims: [{ stop: { to: 'bin' } }] })] })).sets).toEqual(['a+b'])
  })

  it('are three together, and no more: where four stop it nobody corrects it in one press', async () => {
    const of = (n: number) => ({ rules: Array.from({ length: n }, (_, i) => rule(`r${i}`)) })
    expect((await caused(of(3))).sets).toEqual(['r0+r1+r2'])
    const four = await caused(of(4))
    expect(four.sets).toEqual([])
    expect(candidatesFor(four.known, [four.found], { owners: [], id: made() })).toEqual([])
  })

  it('is the stop that comes first, and not what ends or protects behind it', async () => {
    const { sets } = await caused({
      rules: [rule('end', { claims: [{ effect: { kind: 'tag', value: 't' } }], end: 'owner' }), rule('safe', { claims: PROTECT })],
      ...list('l', 'elsewhere.example', { mandatory: true }),
    })
    expect(sets).toEqual(['lb'])
  })

  it('is not what only watches, is switched off, was spared by its exception, or comes too late', async () => {
    const exempted = rule('spared', { except: [{ sender: { kind: 'domain', value: 'elsewhere.example' } }] })
    const { sets, known, found } = await caused({
      rules: [
        rule('watch', { state: 'monitor' }),
        rule('disabled', { state: 'disabled' }),
        exempted,
        rule('a'),
        rule('late', { claims: PROTECT }),
      ],
    })
    expect(sets).toEqual(['a'])
    const touched = candidatesFor(known, [found], { owners: [], id: made() }).flatMap(
      c => c.changes.flatMap(x => (x.type === 'put' && x.kind === 'rule' ? [x.value.id] : [])),
    )
    expect(new Set(touched)).toEqual(new Set(['a']))
  })

  it('is nothing where it has been corrected meanwhile: it is told as right, and nothing is offered', async () => {
    const { found, known } = await caused({})
    expect([found.right, found.sets]).toEqual([true, []])
    expect(candidatesFor(known, [found], { owners: [{ owner: 'organisation', name: 'all' }], id: made() })).toEqual([])
  })

  it('is a list by its use: the entry goes, the list and its other entries stay', async () => {
    const message = await letter({ auth: 'pass' })
    const { known, found, sets } = await caused(list('l', 'elsewhere.example', {}), 'delivered', message)
    expect(sets).toEqual(['lb'])
    const out = candidatesFor(known, [found], { owners: [], id: made() }).find(c => c.kind === 'entry out')!
    expect(out.changes).toEqual([{ type: 'remove', kind: 'entries', list: 'l', entries: [{ kind: 'domain', value: 'elsewhere.example' }] }])
    expect(laneAfter(known, message, out.changes)).toBe('inbox')
  })
})

describe('to blame, for mail that came in', () => {
  it('is the protection that held a stop off', async () => {
    const { sets } = await caused({ rules: [rule('safe', { claims: PROTECT }), rule('a')] }, 'stopped')
    expect(sets).toEqual(['safe'])
  })

  it('is the end that kept a later rule from being reached', async () => {
    const { sets } = await caused(
      { rules: [rule('end', { claims: [{ effect: { kind: 'tag', value: 't' } }], end: 'owner' }), rule('a')] },
      'stopped',
    )
    expect(sets).toEqual(['end'])
  })

  it('is nothing where nothing would have stopped it: then its sender can be blocked, and that suffices', async () => {
    const message = await letter({ from: 'x@bulk.example', auth: 'pass' })
    const { known, found, sets } = await caused({}, 'stopped', message)
    expect(sets).toEqual([])
    const offered = candidatesFor(known, [found], { owners: [{ owner: 'person:oskar', name: 'you' }], id: made() })
    expect(offered.map(c => c.sentence)).toEqual(['Block x@bulk.example for you', 'Block @bulk.example for you'])
    for (const { changes } of offered) expect(laneAfter(known, message, changes)).toBe('spam')
  })

  it('is an exception that spared it: taken out, the rule stops it again, and only that one is named', async () => {
    const message = await letter({ from: 'x@bulk.example', auth: 'pass' })
    const exempted = rule('spared', {
      except: [{ sender: { kind: 'domain', value: 'partner.example' } }, { sender: { kind: 'domain', value: 'bulk.example' } }],
    })
    const { known, found } = await caused({ rules: [exempted] }, 'stopped', message)
    const offered = candidatesFor(known, [found], { owners: [], id: made() }).filter(c => c.kind === 'exception out')
    const suffice = offered.filter(c => laneAfter(known, message, c.changes) === 'spam')
    expect(suffice.map(c => c.sentence)).toEqual(['Remove exception 2 from rule “SPARED”'])
  })
})

describe('several that went wrong together', () => {
  it('are corrected at each clause that stopped one of them, in one change', async () => {
    const known = policy({ rules: [rule('a', { when: { phrases: ['first'] } }), rule('b', { when: { phrases: ['second'] } })] as never })
    const [one, two] = [await letter({ text: 'the first', auth: 'pass' }), await letter({ text: 'the second', auth: 'pass' })]
    const both = [one, two].map((message, id) =>
      causesOf({ id, message, recipient: OSKAR, should: 'delivered' }, compilePolicy(known), NOW),
    )
    const out = candidatesFor(known, both, { owners: [], id: made() }).filter(c => c.kind === 'exception: address')
    expect(out).toHaveLength(1)
    expect(out[0]!.changes).toHaveLength(2)
    for (const message of [one, two]) expect(laneAfter(known, message, out[0]!.changes)).toBe('inbox')
  })
})
