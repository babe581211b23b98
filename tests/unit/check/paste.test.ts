import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  buildEntryTable,
  entryCatches,
  makeAddress,
  MAX_LINES,
  pasteReport,
  readLines,
  type EntryText,
  type LineReport,
  type Policy,
} from '#core'

type Lists = Pick<Policy, 'lists' | 'assignments'>
const TRUST = { ownDomains: ['ours.test'], publicProviders: ['letterpost.test'] }
const list = (id: string, entries: EntryText[], over: object = {}): Lists['lists'][number] => ({
  id,
  name: id,
  owner: 'organisation',
  usualSide: 'block',
  enabled: true,
  entries: entries.map((e, i) => ({ ...e, id: `${id}${i}` })),
  ...over,
})
const assignment = (of: string, side: 'allow' | 'block', over: object = {}): Lists['assignments'][number] =>
  ({
    id: `use of ${of}`,
    list: of,
    owner: 'organisation',
    side,
    state: 'enabled',
    ...(side === 'block' ? { stop: { to: 'spam' } } : {}),
    ...over,
  }) as Lists['assignments'][number]

function reportOf(policy: Lists, text: string, below = false): LineReport[] {
  const table = buildEntryTable(policy.lists.flatMap((l, number) => l.entries.map(entry => ({ list: number, entry }))))
  return pasteReport({ ...policy, trust: TRUST }, table, 0, readLines({ text, below }))
}
const outcomes = (policy: Lists, text: string) => reportOf(policy, text).map(l => [l.line, l.outcome])

const POLICY: Lists = {
  lists: [
    list('Blocked', [{ kind: 'address', value: 'a@x.test' }, { kind: 'domainAndSubdomains', value: 'bulk.test' }]),
    list('Partners', [{ kind: 'domain', value: 'partner.test' }], { usualSide: 'allow' }),
    list('Old blocked', [{ kind: 'domain', value: 'old.test' }]),
    list('Theirs', [{ kind: 'domain', value: 'theirs.test' }], { owner: 'person:oskar' }),
    list('Off', [{ kind: 'domain', value: 'off.test' }], { enabled: false }),
  ],
  assignments: [
    assignment('Blocked', 'block'),
    assignment('Partners', 'allow'),
    assignment('Old blocked', 'block'),
    assignment('Theirs', 'block', { owner: 'person:oskar' }),
    assignment('Off', 'block'),
  ],
}

describe('the report of a paste', () => {
  it('says of each line what becomes of it, and by what', () => {
    const text = [
      'new@x.test',
      'A@X.test # as before',
      'desk@sub.bulk.test',
      '@partner.test',
      'anna@sub.bulk.test',
      '@old.test',
      'new@x.test',
      'not an address',
      '',
      '@theirs.test',
      '@off.test',
    ].join('\n')
    expect(reportOf(POLICY, text).map(l => [l.line, l.outcome, l.why])).toEqual([
      [1, 'new', ''],
      [2, 'there', 'already on this list'],
      [3, 'covered', '@bulk.test and subdomains on this list already includes it'],
      [4, 'contrary', 'list “Partners” allows it; the block takes precedence'],
      [5, 'covered', '@bulk.test and subdomains on this list already includes it'],
      [6, 'covered', 'already on list “Old blocked”, which does the same'],
      [7, 'twice', 'duplicate of line 1 in your text'],
      [8, 'not understood', expect.any(String)],
      // What is somebody else's, or switched off, does nothing for this owner.
      [10, 'new', ''],
      [11, 'new', ''],
    ])
  })

  it('asks the owner’s other lists, too', () => {
    expect(reportOf(POLICY, 'anna@old.test')).toMatchObject([
      { outcome: 'covered', why: '@old.test on list “Old blocked” already includes it' },
    ])
  })

  it('sees what is covered by a line of the same paste', () => {
    expect(outcomes(POLICY, 'x@fresh.test\n@fresh.test')).toEqual([[1, 'covered'], [2, 'new']])
  })

  it('of an allow list: a block of the same wins, and is named', () => {
    const policy = { ...POLICY, lists: [POLICY.lists[1]!, POLICY.lists[2]!], assignments: POLICY.assignments }
    expect(reportOf(policy, '@old.test')).toMatchObject(
      [{ outcome: 'contrary', why: 'list “Old blocked” blocks it; the block takes precedence' }],
    )
  })

  it('never calls covered what nothing there catches: no line is left out for a reason that is none', () => {
    const domain = fc.constantFrom('x.test', 'sub.x.test', 'deep.sub.x.test', 'y.test')
    const line = fc.oneof(
      fc.tuple(fc.constantFrom('a', 'b'), domain).map(([l, d]) => `${l}@${d}`),
      domain.map(d => `@${d}`),
      domain.map(d => `*.${d}`),
    )
    fc.assert(
      fc.property(fc.array(line, { maxLength: 6 }), fc.array(line, { maxLength: 6 }), (there, pasted) => {
        const good = readLines({ text: there.join('\n'), below: false }).good
        const policy = { lists: [list('L', good)], assignments: [assignment('L', 'block')] }
        const read = readLines({ text: pasted.join('\n'), below: false })
        const lines = reportOf(policy, pasted.join('\n'))
        read.good.forEach((entry, i) => {
          const result = lines.find(l => l.line === read.at[i])!
          const others = [...good, ...read.good.filter(g => g !== entry)]
          // Some address that it catches, by itself and by one of the others.
          const sample = makeAddress(entry.kind === 'address' ? entry.value : `somebody@${entry.value}`)
          const caught = others.some(o => entryCatches(o, { address: sample, listId: null, client: null }))
          if (result.outcome === 'covered' || result.outcome === 'there') expect(caught).toBe(true)
          if (result.outcome === 'new' && entry.kind === 'address') expect(caught).toBe(false)
        })
      }),
      { seed: 3, numRuns: 400 },
    )
  })

  it('counts every line of a paste once, whatever it says', () => {
    fc.assert(
      fc.property(fc.array(fc.oneof(
        fc.constantFrom('a@x.test', '@x.test', '', '# remark', '  ', 'x@@y'),
        fc.string({ maxLength: 20 }).map(s => s.replace(/[\r\n,;]/g, ' ')),
      ), { maxLength: 12 }), (lines) => {
        const result = reportOf(POLICY, lines.join('\n'))
        expect(new Set(result.map(l => l.line)).size).toBe(result.length)
        const silent = lines.filter(l => !l.replace(/(?:^|\s)#.*$/, '').trim()).length
        expect(result.length).toBe(lines.length ? lines.length - silent : 0)
      }),
      { seed: 4, numRuns: 300 },
    )
  })

  it.each([
    ['a tab', 'Miller\tann@quayline.test\t2026-01-02', ['ann@quayline.test']],
    ['a spreadsheet’s quotes', '"Miller, ""Ann""";"ann@quayline.test";"x"', ['ann@quayline.test']],
    ['semicolons without blanks', 'ann@quayline.test;bo@quayline.test', ['ann@quayline.test', 'bo@quayline.test']],
    ['commas without blanks', '192.0.2.0/24,198.51.100.0/24', ['192.0.2.0/24', '198.51.100.0/24']],
    ['the field of a mail program', '"Miller, Ann" <ann@quayline.test>; Bo <bo@quayline.test>', ['ann@quayline.test', 'bo@quayline.test']],
    ['running text', 'Write to Ann (ann@quayline.test), or call 555.', ['ann@quayline.test']],
    ['a copied link', 'mailto:ann@quayline.test?subject=Hello', ['ann@quayline.test']],
    ['invisible characters', '\u200Bann@quayline.test\uFEFF', ['ann@quayline.test']],
    ['a domain before other columns', 'quayline.test\tpartner\tv1.beta', ['quayline.test']],
    ['a quote that nothing closes', '"ann@quayline.test\tx', ['ann@quayline.test']],
    ['a network before a remark', '192.0.2.0/24\tthe old relay', ['192.0.2.0/24']],
  ])('reads the entries beside or within %s, and nothing else of it', (_, text, values) => {
    const { good, wrong } = readLines({ text, below: false })
    expect([good.map(e => e.value), wrong]).toEqual([values, []])
  })

  it('names the line of which it read a part, and leaves what it could not read', () => {
    expect(reportOf(POLICY, 'call Ann: ann@q.test\nE-mail\tName').map(l => [l.line, l.outcome, l.text, l.why])).toEqual([
      [1, 'in part', 'ann@q.test', 'the rest is left out of “call Ann: ann@q.test”'],
      [2, 'not understood', 'E-mail\tName', expect.any(String)],
    ])
  })

  it.each([
    ['a top-level domain', 'test', '“test” is a top-level domain'],
    ['an ending under which anyone can register', 'co.uk', '“co.uk” is a top-level domain or another ending'],
    ['a public provider', '@letterpost.test', 'letterpost.test is a public mailbox provider: anyone can have an address there'],
    ['your own domain', '@ours.test', 'ours.test is one of your own domains'],
    ['what your own domain is below of', '*.ours.test', 'ours.test is one of your own domains'],
    ['an address of your own domain, where it would be blocked', 'boss@ours.test', 'this is an address at your own domain ours.test'],
    [
      'a domain that covers an allowed address', '@friend.test',
      'includes ann@friend.test and 1 more, allowed by list “Friends”: the narrower entry comes first',
    ],
  ])('asks for a look at %s', (_, text, why) => {
    const friends = ['ann', 'bo'].map(n => ({ kind: 'address' as const, value: `${n}@friend.test` }))
    const policy = {
      lists: [...POLICY.lists, list('Friends', friends, { usualSide: 'allow' })],
      assignments: [...POLICY.assignments, assignment('Friends', 'allow')],
    }
    const [line] = reportOf(policy, text)
    expect(line).toMatchObject({ outcome: 'doubtful', why: expect.stringContaining(why) })
    // A single address of a provider is nothing to look at twice.
    expect(reportOf(policy, 'somebody@letterpost.test')).toMatchObject([{ outcome: 'new' }])
  })

  it('of too many lines reads nothing, rather than some', () => {
    const { good, at, twice, wrong, count } = readLines({ text: 'a@x.test\n'.repeat(MAX_LINES), below: false })
    expect([good, at, twice, wrong, count]).toEqual([[], [], [], [], MAX_LINES + 1])
  })
})
