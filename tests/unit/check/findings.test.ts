import { describe, expect, it } from 'vitest'
import { checkPolicy, phraseHitKey, type Condition, type Entry, type Policy, type Rule } from '#core'
import { NOW, policy } from '../../support/build'

const rule = (id: string, when: Condition, more: Partial<Rule> = {}): Rule => ({
  id,
  name: id,
  owner: 'organisation',
  state: 'enabled',
  when,
  except: [],
  claims: [{ stop: { to: 'spam' } }],
  ...more,
})
const list = (entries: Pick<Entry, 'kind' | 'value' | 'expires'>[], enabled = true) => ({
  id: 'l',
  name: 'L',
  owner: 'organisation',
  usualSide: 'allow' as const,
  enabled,
  entries: entries.map((e, i) => ({ id: `e${i}`, ...e })),
})
const allow = { id: 'b', list: 'l', owner: 'organisation', side: 'allow' as const, state: 'enabled' as const }
const kinds = (p: Policy) =>
  checkPolicy(p, { now: NOW }).map(f => `${f.clause.id}${f.clause.entry ? ` ${f.clause.entry}` : ''}: ${f.kind}`)
const offer: Condition = { phrases: ['offer'] }

describe('checks: a rule that nobody can rely on would stay unnoticed', () => {
  it('finds nothing in a policy in order', () =>
    expect(
      kinds(
        policy({
          rules: [rule('a', offer), rule('b', { phrases: ['wheat'] })],
          lists: [list([{ kind: 'domain', value: 'x.test' }])],
          assignments: [allow],
        }),
      ),
    ).toEqual([]))
  it.each<[string, Parameters<typeof policy>[0], string[]]>([
    [
      'two senders at once',
      {
        rules: [
          rule('a', {
            all: [
              { sender: { kind: 'address', value: 'a@x.test' } },
              { sender: { kind: 'address', value: 'b@x.test' } },
            ],
          }),
        ],
      },
      ['a: can never match'],
    ],
    [
      'a list that is off',
      { rules: [rule('a', { senderOn: 'l' })], lists: [list([{ kind: 'domain', value: 'x.test' }], false)] },
      ['a: can never match'],
    ],
    [
      'an exception on a list that is off',
      {
        rules: [rule('a', offer, { except: [{ senderOn: 'l' }] })],
        lists: [list([{ kind: 'domain', value: 'x.test' }], false)],
      },
      ['a: uses a disabled list'],
    ],
    ['the same again', { rules: [rule('a', offer), rule('b', offer)] }, ['b: covered by an earlier rule']],
    [
      'a narrower one behind a wider one that ends',
      {
        rules: [
          rule(
            'a',
            { phrases: ['offer', 'wheat'] },
            { claims: [{ effect: { kind: 'tag', value: 't' } }], end: 'owner' },
          ),
          rule('b', { all: [{ phrases: ['wheat'] }, { important: true }] }),
        ],
      },
      ['b: never reached'],
    ],
    [
      'an entry below a wider one',
      {
        lists: [
          list([
            { kind: 'domainAndSubdomains', value: 'x.test' },
            { kind: 'address', value: 'a@sub.x.test' },
          ]),
        ],
      },
      ['l e1: entry covered by a wider one'],
    ],
    [
      'an allow entry without a domain',
      { lists: [list([{ kind: 'words', value: 'chandlers' }])], assignments: [allow] },
      ['l e0: entry has no effect'],
    ],
    ['a wide network', { lists: [list([{ kind: 'network', value: '10.0.0.0/8' }])] }, ['l e0: wide network']],
    [
      'a phrase inside another',
      { rules: [rule('a', { phrases: ['fee', 'release fee'] })] },
      ['a: phrase inside another'],
    ],
    [
      'erasing straight away',
      { rules: [rule('a', offer, { claims: [{ stop: { to: 'erase', confirmed: true } }] })] },
      ['a: deletes permanently, never monitored'],
    ],
    ['nothing rare asked', { rules: [rule('a', { size: { atLeast: 10 } })] }, ['a: slow rule']],
    [
      'an exception that expires in three days',
      {
        rules: [rule('a', offer, { except: [{ senderOn: 'l' }] })],
        lists: [list([{ kind: 'domain', value: 'x.test', expires: '2026-11-27T00:00:00Z' }])],
      },
      ['l e0: exception expires soon'],
    ],
    [
      'an address under a domain and subdomains of an earlier rule',
      {
        rules: [
          rule('a', { sender: { kind: 'domainAndSubdomains', value: 'b.test' } }),
          rule('b', { sender: { kind: 'address', value: 'x@mail.b.test' } }),
        ],
      },
      ['b: covered by an earlier rule'],
    ],
    ['an expired rule', { rules: [rule('a', offer, { expires: '2026-01-01T00:00:00Z' })] }, ['a: expired']],
    ['a minimum out of reach', { rules: [rule('a', { phrases: ['x', 'y'], minimum: 3 })] }, ['a: can never match']],
  ])('finds %s', (_, clauses, found) => expect(kinds(policy(clauses))).toEqual(found))
  it('knows where no relay verifies anybody', () => {
    const p = policy({ lists: [list([{ kind: 'domain', value: 'x.test' }])], assignments: [allow] })
    expect(checkPolicy({ ...p, trust: { ...p.trust, relays: [] } }, { now: NOW })).toMatchObject([
      { kind: 'entry has no effect', evidence: 'only verified senders count, and no trusted relay that verifies senders is configured' },
    ])
  })
  it('says what matched nothing for 180 days, and not of what is younger than that', () => {
    const p = policy({
      rules: [rule('old', offer), rule('new', { phrases: ['wheat'] }), rule('busy', { phrases: ['regatta'] })],
    })
    const seen = new Map([
      ['old', { last: '2026-05-01T00:00:00Z', since: '2025-01-01T00:00:00Z' }],
      ['new', { last: null, since: '2026-11-01T00:00:00Z' }],
      ['busy', { last: '2026-11-20T00:00:00Z', since: '2025-01-01T00:00:00Z' }],
    ])
    expect(checkPolicy(p, { now: NOW, seen })).toMatchObject([
      { kind: 'unused', clause: { id: 'old' }, evidence: 'last match on 1 May 2026' },
    ])
    expect(
      checkPolicy(p, { now: NOW, seen: new Map([['old', { last: null, since: '2026-01-02T00:00:00Z' }]]) }),
    ).toMatchObject([{ evidence: 'no matches since 2 January 2026' }])
  })
  it('says which phrase, enough by itself to stop a copy, stands in more than 1 of 50 wanted ones', () => {
    const weighed = [{ text: 'tide', weight: 2 }, 'wheat']
    const p = policy({
      rules: [
        rule('a', { any: [offer, { all: [offer, { phrases: ['joint'] }] }] }),
        rule('b', { set: 's' }),
        rule('tag', { phrases: ['common'] }, { claims: [{ effect: { kind: 'tag', value: 't' } }] }),
      ],
      phraseSets: [{ id: 's', name: 'S', owner: 'organisation', phrases: weighed, minimum: 2 }],
    })
    const found = (hits: [string, string, number][], wanted = 100) =>
      checkPolicy(p, {
        now: NOW,
        wantedHits: {
          wanted: new Map([['organisation', wanted]]),
          byPhrase: new Map(hits.map(([r, phrase, n]) => [phraseHitKey(r, phrase), n])),
        },
      }).map(f => `${f.clause.id}: ${f.evidence}`)
    expect(
      found([
        ['a', 'offer', 3],
        ['a', 'joint', 50],
        ['b', 'tide', 4],
        ['b', 'wheat', 50],
        ['tag', 'common', 50],
      ]),
    ).toEqual(['a: “offer” was found in 3 of 100 wanted messages', 'b: “tide” was found in 4 of 100 wanted messages'])
    expect(found([['a', 'offer', 2]])).toEqual([])
    expect(found([['a', 'offer', 30]], 40)).toEqual([])
  })
  it('trusts a rule that erases once it has watched', () => {
    const p = policy({ rules: [rule('a', offer, { claims: [{ stop: { to: 'erase', confirmed: true } }] })] })
    expect(checkPolicy(p, { now: NOW, watched: new Set(['a']) })).toEqual([])
  })
  it('does not call a longer phrase idle where phrases are weighed together or need company', () => {
    expect(kinds(policy({ rules: [rule('a', { phrases: ['fee', 'release fee'], minimum: 2 })] }))).toEqual([])
    expect(
      kinds(policy({ rules: [rule('a', { phrases: [{ text: 'fee', near: { phrases: ['bank'] } }, 'release fee'] })] })),
    ).toEqual([])
  })
  it('warns of a public mailbox provider that counts even if not verified', () => {
    const p = policy({
      lists: [list([{ kind: 'domain', value: 'anybody.test' }])],
      assignments: [{ ...allow, counts: 'notFailed' }],
    })
    // Where senders can be verified, whatever counts on less is named as a whole; this provider's entry besides.
    expect(kinds(p)).toEqual(['l: counts even if not verified'])
    expect(kinds({ ...p, trust: { ...p.trust, publicProviders: ['anybody.test'] } })).toEqual([
      'l: counts even if not verified',
      'l e0: counts even if not verified',
    ])
  })
  it('finds the same by index as by comparing every rule with every other', () => {
    const phrases = ['a', 'b', 'c', 'a b'].map(p => ({ phrases: [p] }))
    const senders = [
      { kind: 'domain' as const, value: 'x.test' },
      { kind: 'domainAndSubdomains' as const, value: 'x.test' },
      { kind: 'address' as const, value: 'd@x.test' },
      { kind: 'address' as const, value: 'd@s.x.test' },
      { kind: 'pattern' as const, value: 'd@*' },
    ].map(sender => ({ sender }))
    const leaves: Condition[] = [...phrases, ...senders, { every: true }, { important: true }, { phrases: ['a', 'b'] }]
    const whens: Condition[] = leaves.flatMap(a => [a, ...leaves.map(b => ({ all: [a, b] })), { any: [a, leaves[0]!] }])
    // Read once: each pair takes two of the rules that were.
    const whole = policy({ rules: whens.map((when, i) => rule(`r${i}`, when)) })
    const one = (i: number, j: number) =>
      kinds({ ...whole, rules: [whole.rules[i]!, whole.rules[j]!] }).some(k => k === `r${j}: covered by an earlier rule`)
    const all = kinds(whole)
      .filter(k => k.endsWith('covered by an earlier rule'))
      .map(k => Number(/\d+/.exec(k)![0]))
    const plainly = whens.flatMap((_, j) => (whens.slice(0, j).some((__, i) => one(i, j)) ? [j] : []))
    expect(all).toEqual(plainly)
  })
})
