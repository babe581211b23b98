import { describe, expect, it } from 'vitest'
import { checkPolicy, buildEntryTable, type Assignment, type Entry, type List, type Policy, type Rule } from '#core'
import { NOW, policy } from '../../support/build'

const listOf = (id: string, entries: [Entry['kind'], string][], over: Partial<List> = {}): List => ({
  id,
  name: id.toUpperCase(),
  owner: 'organisation',
  usualSide: 'block',
  enabled: true,
  entries: entries.map(([kind, value], i) => ({ id: `${id}${i}`, kind, value })),
  ...over,
})
const assignment = (list: string, side: 'allow' | 'block', over: Partial<Assignment> = {}): Assignment => ({
  id: `${list}-${side}`,
  list,
  owner: 'organisation',
  side,
  state: 'enabled',
  ...(side === 'block' ? { stop: { to: 'spam' } } : { counts: 'notFailed' }),
  ...over,
})
const result = (p: Policy, kind: string, context = {}) =>
  checkPolicy(p, { now: NOW, ...context })
    .filter(f => f.kind === kind)
    .map(f => [f.clause.id, f.clause.entry ?? null])

describe('checks over every entry: the one that matters would be the one nobody looks at', () => {
  it('sees the entries that the policy itself does not hold', () => {
    const list = listOf('l', [])
    const rows = Array.from({ length: 5000 }, (_, i) => ({
      list: 0,
      entry: { id: `e${i}`, kind: 'domain' as const, value: `d${i}.test` } as Entry,
    }))
    rows.push({ list: 0, entry: { id: 'wide', kind: 'network', value: '10.0.0.0/8' } })
    rows.push({ list: 0, entry: { id: 'inner', kind: 'address', value: 'a@d4999.test' } })
    const p = policy({ lists: [list], assignments: [assignment('l', 'block')] })
    const context = { entries: buildEntryTable(rows) }
    expect(result(p, 'wide network', context)).toEqual([['l', 'wide']])
    expect(result(p, 'entry covered by a wider one', context)).toEqual([['l', 'inner']])
    expect(result(p, 'wide network')).toEqual([])
  })
  it('finds the same in a table as in the policy, whatever the lists', () => {
    const values: [Entry['kind'], string][] = [
      ['domain', 'a.test'],
      ['domainAndSubdomains', 'a.test'],
      ['domainAndSubdomains', 'b.a.test'],
      ['address', 'x@a.test'],
      ['address', 'x@b.a.test'],
      ['pattern', 'x@*'],
      ['words', 'chandler'],
      ['everyone', ''],
      ['network', '2001:db8::/40'],
      ['mailingList', 'l.a.test'],
    ]
    for (let seed = 1; seed < 60; seed++) {
      const some = (n: number) => values.filter((_, i) => (seed * (i + n) * 7919) % 5 > 1)
      const p = policy({
        lists: [listOf('l', some(1)), listOf('m', some(2)), listOf('n', some(3))],
        assignments: [assignment('l', 'allow'), assignment('m', 'block'), assignment('n', 'allow', { counts: 'any' })],
      })
      const rows = p.lists.flatMap((l, list) => l.entries.map(entry => ({ list, entry })))
      const bare = { ...p, lists: p.lists.map(l => ({ ...l, entries: [] })) }
      expect(checkPolicy(bare, { now: NOW, entries: buildEntryTable(rows) })).toEqual(checkPolicy(p, { now: NOW }))
    }
  })
  it('tells a thousand of a kind one by one, and how many more there are', () => {
    const p = policy({
      lists: [
        listOf(
          'l',
          Array.from({ length: 1200 }, (_, i) => ['words', `word ${i}`] as [Entry['kind'], string]),
        ),
      ],
      assignments: [assignment('l', 'allow', { counts: 'verified' })],
    })
    const found = checkPolicy(p, { now: NOW }).filter(f => f.kind === 'entry has no effect')
    expect([found.length, found.at(-1)!.evidence, found.at(-1)!.clause.entry]).toEqual([
      1001,
      '200 more entries with the same finding',
      undefined,
    ])
  })
  // RFC 6177: an end site gets a /48 or less; IPv4 as the trade counts, wider than /16 (common practice, no source).
  it.each([
    ['10.0.0.0/15', true],
    ['10.1.0.0/16', false],
    ['2001:db8::/32', true],
    ['2001:db8::/48', true],
    ['2001:db8::/49', false],
    ['2001:db8::/64', false],
    ['2001:db8::1/128', false],
  ])('%s is wide: %s', (value, wide) =>
    expect(result(policy({ lists: [listOf('l', [['network', value]])] }), 'wide network').length === 1).toBe(wide),
  )
})

describe('what speaks against itself', () => {
  const both = [
    listOf(
      'l',
      [
        ['domain', 'x.test'],
        ['address', 'a@y.test'],
      ],
      { usualSide: 'allow' },
    ),
    listOf('m', [
      ['domain', 'x.test'],
      ['domain', 'y.test'],
    ]),
  ]
  it('an allow entry that the same owner blocks just so', () => {
    const p = policy({ lists: both, assignments: [assignment('l', 'allow'), assignment('m', 'block')] })
    const found = checkPolicy(p, { now: NOW }).filter(f => f.kind === 'allowed and blocked')
    // The address against its domain is an exception that somebody meant.
    expect(found.map(f => [f.clause.entry, f.evidence])).toEqual([
      [
        'l0',
        'x.test is also blocked by list “M”, for the same recipients; the block takes precedence',
      ],
    ])
  })
  it.each<[string, Assignment[], List[]?]>([
    ['another owner’s block', [assignment('l', 'allow'), assignment('m', 'block', { owner: 'department:office' })]],
    ['another direction', [assignment('l', 'allow'), assignment('m', 'block', { direction: 'outbound' })]],
    ['a block that only watches', [assignment('l', 'allow'), assignment('m', 'block', { state: 'monitor' })]],
    ['an allow that is off', [assignment('l', 'allow', { state: 'disabled' }), assignment('m', 'block')]],
    ['a list that is off', [assignment('l', 'allow'), assignment('m', 'block')], [both[0]!, { ...both[1]!, enabled: false }]],
  ])('not against %s', (_, assignments, lists = both) =>
    expect(result(policy({ lists, assignments }), 'allowed and blocked')).toEqual([]),
  )
  it('a list that is bound to both by one owner', () =>
    expect(
      result(policy({ lists: [both[0]!], assignments: [assignment('l', 'allow'), assignment('l', 'block')] }), 'allowed and blocked'),
    ).toEqual([
      ['l', 'l0'],
      ['l', 'l1'],
    ]))

  const tag = (id: string, over: Partial<Rule> = {}): Rule => ({
    id,
    name: id,
    owner: 'organisation',
    state: 'enabled',
    when: { phrases: [{ text: 'offer', weight: 2 }] },
    except: [],
    claims: [{ effect: { kind: 'tag', value: 't' } }],
    ...over,
  })
  it('a rule that says the very same as another, in whatever order its keys stand', () => {
    const again = tag('b', {
      when: { phrases: [{ weight: 2, text: 'offer' }] },
      claims: [{ effect: { value: 't', kind: 'tag' } }],
    })
    expect(result(policy({ rules: [tag('a'), again, tag('c')] }), 'duplicate rule')).toEqual([
      ['b', null],
      ['c', null],
    ])
  })
  it.each<[string, Partial<Rule>]>([
    ['another tag', { claims: [{ effect: { kind: 'tag', value: 'u' } }] }],
    ['another owner', { owner: 'department:office' }],
    ['another direction', { direction: 'internal' }],
    ['an exception', { except: [{ important: true }] }],
    ['being switched off', { state: 'disabled' }],
    ['ending', { end: 'owner' }],
  ])('not with %s', (_, over) => expect(result(policy({ rules: [tag('a'), tag('b', over)] }), 'duplicate rule')).toEqual([]))

  it('what would be erased and nobody confirmed, by whose use it is', () => {
    const p = policy({
      rules: [
        tag('a', { claims: [{ stop: { to: 'erase' } }] }),
        tag('b', { when: { phrases: ['x'] }, claims: [{ stop: { to: 'erase', confirmed: true } }] }),
      ],
      lists: [listOf('l', [['domain', 'x.test']])],
      assignments: [
        assignment('l', 'block', { owner: 'person:oskar', stop: { to: 'erase' } }),
        assignment('l', 'block', { id: 'other', stop: { to: 'discard', confirmed: true } }),
      ],
    })
    const found = checkPolicy(p, { now: NOW }).filter(f => f.kind === 'not confirmed')
    expect(found.map(f => [f.clause.kind, f.clause.id, f.clause.user])).toEqual([
      ['list', 'l', 'person:oskar'],
      ['rule', 'a', undefined],
    ])
  })
})
