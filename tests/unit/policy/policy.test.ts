import { describe, expect, it } from 'vitest'
import { entryCatches, makeAddress, readEntryLine, readPolicy } from '#core'
import { ruleSentence } from '#core/words'
import { policy } from '../../support/build'

const minimal = { format: 'sober-gate-policy', formatVersion: 3, trust: { ownDomains: ['saltmere.example'] } }
const rule = (over: object) => ({
  id: 'r',
  name: 'r',
  owner: 'organisation',
  state: 'enabled',
  when: { every: true },
  except: [],
  claims: [{ stop: { to: 'spam' } }],
  ...over,
})
const problems = (over: object) => {
  const read = readPolicy({ ...minimal, ...over })
  return 'problems' in read ? read.problems.map(p => p.path) : []
}

describe('a policy from outside: a mistake in it would act on mail', () => {
  it('takes a small one and fills in the rest', () => expect(problems({})).toEqual([]))
  it.each([
    ['nothing matches everything', { rules: [rule({ when: { all: [] } })] }, '/rules/0/when/all'],
    ['no phrase', { rules: [rule({ when: { phrases: [] } })] }, '/rules/0/when/phrases'],
    ['two things at once', { rules: [rule({ when: { every: true, phrases: ['x'] } })] }, '/rules/0/when'],
    [
      'stop and protect',
      { rules: [rule({ claims: [{ stop: { to: 'bin' } }, { protect: ['spam'] }] })] },
      '/rules/0/claims',
    ],
    [
      'a quarantine that is not there',
      { rules: [rule({ claims: [{ stop: { to: 'quarantine', quarantine: 'nowhere' } }] })] },
      '/rules/0/claims/0/stop/quarantine',
    ],
    [
      'a list that is not there',
      { rules: [rule({ except: [{ any: [{ senderOn: 'nobody' }] }] })] },
      '/rules/0/except/0/any/0/senderOn',
    ],
    [
      'mandatory of a person',
      {
        people: [{ id: 'p', name: 'P', addresses: ['p@saltmere.example'] }],
        rules: [rule({ owner: 'person:p', mandatory: true })],
      },
      '/rules/0/mandatory',
    ],
    [
      'a domain that is none',
      {
        lists: [
          {
            id: 'l',
            name: 'l',
            owner: 'organisation',
            usualSide: 'block',
            enabled: true,
            entries: [{ id: 'e', kind: 'domain', value: 'a b' }],
          },
        ],
      },
      '/lists/0/entries/0',
    ],
  ])('refuses %s, and says where', (_, over, path) => expect(problems(over)).toContain(path))
  it('refuses a nesting that nobody could read', () => {
    let when: object = { every: true }
    for (let i = 0; i < 6; i++) when = { all: [when] }
    expect(problems({ rules: [rule({ when })] })).toEqual(['/rules/0'])
  })
  it('brings entries into the form in which they are compared', () => {
    const p = policy({
      lists: [
        {
          id: 'l',
          name: 'l',
          owner: 'organisation',
          usualSide: 'block',
          enabled: true,
          entries: [{ id: 'e', kind: 'domain', value: 'Bücher.EXAMPLE' }],
        },
      ],
    })
    expect(p.lists[0]!.entries[0]!.value).toBe('xn--bcher-kva.example')
  })
})

describe('entries: a pasted line would mean another sender than the one that was meant', () => {
  it.each([
    ['@quayline.example', false, 'domain', 'quayline.example'],
    ['quayline.example', true, 'domainAndSubdomains', 'quayline.example'],
    ['*.quayline.example', false, 'domainAndSubdomains', 'quayline.example'],
    ['Ines <Ines@Quayline.Example>', false, 'address', 'ines@quayline.example'],
    ['mailto:ines+x@quayline.example', false, 'address', 'ines+x@quayline.example'],
    ['words: quayline.example', true, 'words', 'quayline.example'],
    ['mailing list: News.Quayline.Example', false, 'mailingList', 'news.quayline.example'],
  ])('%s', (line, below, kind, value) => expect(readEntryLine(line, below)).toEqual({ kind, value }))
  it('refuses what is neither', () => {
    for (const bad of ['ines@', 'a b', '@', 'x@y@']) expect(readEntryLine(bad)).toHaveProperty('error')
  })
  it('blocking a domain catches every address at it, and those below only if asked (common practice, no source)', () => {
    const at = (a: string) => ({ address: makeAddress(a), listId: null, client: null })
    expect(entryCatches({ kind: 'domain', value: 'x.test' }, at('anyone@X.test'))).toBe(true)
    expect(entryCatches({ kind: 'domain', value: 'x.test' }, at('anyone@sub.x.test'))).toBe(false)
    expect(entryCatches({ kind: 'domainAndSubdomains', value: 'x.test' }, at('anyone@sub.x.test'))).toBe(true)
    expect(entryCatches({ kind: 'domainAndSubdomains', value: 'x.test' }, at('anyone@notx.test'))).toBe(false)
  })
  it('a +tag counts only where the entry has one (RFC 5233)', () => {
    expect(
      entryCatches(
        { kind: 'address', value: 'a@x.test' },
        { address: makeAddress('a+news@x.test'), listId: null, client: null },
      ),
    ).toBe(true)
    expect(
      entryCatches(
        { kind: 'address', value: 'a+news@x.test' },
        { address: makeAddress('a@x.test'), listId: null, client: null },
      ),
    ).toBe(false)
  })
})

describe('a policy of format version 2', () => {
  const sender = { kind: 'address', value: 'a@b.test' }
  const of = (owner: string, over: object) => ({ id: 'r', name: 'R', owner, state: 'enabled', ...over })
  const stops = { when: { sender }, except: [{ sender }, { none: [{ any: [{ sender }] }] }], claims: [{ stop: { to: 'spam' } }] }
  const keeps = { when: { all: [{ sender }, { none: [{ senderOn: 'l' }] }] }, except: [{ sender }], claims: [{ protect: ['spam'] }] }
  const list = { id: 'l', name: 'L', owner: 'person:a', usualSide: 'allow', enabled: true, entries: [] }
  const use = (over: object) => ({ id: 'b', list: 'l', owner: 'person:a', side: 'allow', state: 'enabled', ...over })
  const read = (over: object) => {
    const people = [{ id: 'a', name: 'A', addresses: [] }]
    const found = readPolicy({ ...minimal, formatVersion: 2, people, lists: [list], ...over })
    if ('problems' in found) throw new Error(JSON.stringify(found.problems))
    return found.policy
  }
  const lax = { sender, counts: 'notFailed' }

  it('decides as it did: what a personal clause counted on is written out where it favours mail, and nowhere else', () => {
    expect(read({ rules: [of('person:a', stops)] }).rules[0]).toMatchObject({
      when: { sender },
      except: [lax, { none: [{ any: [{ sender }] }] }],
    })
    expect(read({ rules: [of('person:a', stops)] }).rules[0]!.when).toEqual({ sender })
    expect(read({ rules: [of('person:a', keeps)] }).rules[0]).toMatchObject({ when: { all: [lax, { none: [{ senderOn: 'l' }] }] } })
    expect(read({ rules: [of('person:a', keeps)] }).rules[0]!.except).toEqual([{ sender }])
    expect(read({ rules: [of('organisation', stops)] }).rules[0]!.except[0]).toEqual({ sender })
    expect(read({ assignments: [use({})] }).assignments[0]!.counts).toBe('notFailed')
    expect(read({ assignments: [use({ counts: 'any' })] }).assignments[0]!.counts).toBe('any')
    expect(read({ assignments: [use({ owner: 'organisation' })] }).assignments[0]!.counts).toBeUndefined()
  })

  it('counts verified senders only where it is mandatory, and is read though it said less', () => {
    const rule = of('organisation', { ...stops, mandatory: true, except: [{ any: [{ ...lax, counts: 'any' }] }] })
    expect(read({ rules: [rule] }).rules[0]!.except).toEqual([{ any: [{ sender }] }])
    expect(JSON.stringify(readPolicy({ ...minimal, rules: [rule] }))).toContain('only verified senders count')
    expect(read({ assignments: [use({ owner: 'organisation', mandatory: true, counts: 'any' })] }).assignments[0]!.counts).toBeUndefined()
  })

  it('that is none is refused, and never thrown at', () => {
    for (const rules of [null, 'x', [null, 7, []], [{ owner: 'person:a', when: [{ all: 'x' }], except: 7, claims: {} }]])
      expect(readPolicy({ ...minimal, formatVersion: 2, rules })).toHaveProperty('problems')
  })
})

describe('sentences: a person would read something else than the rule does', () => {
  it('says conditions, exceptions and effects', () => {
    const p = policy({
      lists: [{ id: 'l', name: 'Authorities', owner: 'organisation', usualSide: 'allow', enabled: true, entries: [] }],
    })
    expect(
      ruleSentence(
        {
          when: { all: [{ phrases: ['a', 'b'], where: ['subject'] }, { sender: { kind: 'domain', value: 'x.test' } }] },
          except: [{ senderOn: 'l' }],
          claims: [{ stop: { to: 'quarantine', quarantine: 'security' } }, { effect: { kind: 'tag', value: 't' } }],
        },
        p,
      ),
    ).toBe(
      'When the subject has “a” or “b” and the sender is @x.test, hold in quarantine “Security” and add the tag “t”, '
      + 'unless the sender is on list “Authorities” (if verified).',
    )
  })
})
