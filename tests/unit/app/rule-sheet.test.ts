import fc from 'fast-check'
import isSame from 'fast-deep-equal'
import { describe, expect, it } from 'vitest'
import { decide, readPolicy, type Condition, type Policy, type Rule } from '#core'
import { conditionOf, lacks, newRow, rowOf } from '../../../app/composables/conditionRows'
import { blankSheet, proposedName, ruleOf, sheetOf } from '../../../app/composables/ruleSheet'
import { readPhrases, writtenPhrases } from '../../../app/composables/phraseLines'
import { arbitraryPolicy } from '../../support/arbitrary'
import { NOW, OURS } from '../../support/build'
import { arbitraryParsed } from '../../support/parsed'

const saved = (rule: Rule): Rule => {
  const { id, ...form } = rule
  return JSON.parse(JSON.stringify({ id, ...ruleOf(sheetOf(form)) })) as Rule
}
const rule = (when: Condition, more: Partial<Rule> = {}): Rule => ({
  id: 'r',
  name: 'R',
  owner: 'organisation',
  state: 'enabled',
  when,
  except: [],
  claims: [{ stop: { to: 'spam' } }],
  ...more,
})

describe('the rule sheet: a rule that is opened and saved would become another', () => {
  it('decides the same after it was opened and saved unchanged', () => {
    let changed = 0
    fc.assert(
      fc.property(arbitraryPolicy, arbitraryParsed, (policy, message) => {
        const rules = policy.rules.map(saved)
        // What is saved as it was, needs no look; what is written otherwise must be valid, and decide the same.
        const others = rules.filter((r, i) => !isSame(r, policy.rules[i]))
        if (!others.length) return
        changed++
        const read = readPolicy({ ...policy, rules: others })
        if ('problems' in read) throw new Error(JSON.stringify(read.problems))
        const canonical = new Map(read.policy.rules.map(r => [r.id, r]))
        const after = { ...policy, rules: rules.map(r => canonical.get(r.id) ?? r) }
        const decision = (p: Policy) => decide(message, `oskar@${OURS}`, p, { now: NOW })
        expect(decision(after)).toEqual(decision(policy))
      }),
      { seed: 21, numRuns: 500 },
    )
    expect(changed).toBeGreaterThan(100)
  })
  it('phrases with company can be edited, in whatever order the database gives their keys', () => {
    const { id: _, ...form } = rule({
      phrases: [{ near: { within: 3, phrases: ['c'] }, text: 'a' }, { weight: 2, text: 'b' }],
      near: { within: 5, phrases: ['d'] },
    })
    const [row] = sheetOf(form).when
    expect([row!.kind, row!.text, row!.near]).toEqual(['phrases', 'a\nb ×2', 'd'])
  })
  it.each<[string, Rule]>([
    [
      'a group in a group in a group',
      rule({ all: [{ any: [{ none: [{ important: true }] }, { phrases: ['a'] }] }, { every: true }] }),
    ],
    [
      'weights, a minimum, company of one phrase and of all',
      rule({
        phrases: [{ text: 'a', weight: 2 }, { text: 'b, c', near: { phrases: ['d'], within: 3 } }, 'e'],
        minimum: 2,
        near: { phrases: ['f'] },
        view: 'bare',
        whole: false,
        where: ['subject', 'header:x-a'],
      }),
    ],
    [
      'one phrase twice, and one that looks weighed',
      rule({
        all: [
          { phrases: [{ text: 'a', near: { phrases: ['b'] } }, 'a'] },
          { phrases: ['size ×2'] },
          { phrases: ['a  b'], near: { phrases: ['c', 'c'] } },
        ],
      }),
    ],
    [
      'a date with two bounds',
      rule({
        all: [
          { date: { of: 'sent', before: '2026-01-01T00:00:00.000Z', after: '2025-01-01T00:00:00.000Z' } },
          { size: { atLeast: 1, atMost: 2 } },
        ],
      }),
    ],
    ['a protection from some things', rule({ every: true }, { claims: [{ protect: ['spam', 'delete'] }] })],
    [
      'a folder, an end for everybody, a direction, dates',
      rule(
        { every: true },
        {
          mandatory: true,
          claims: [{ place: { to: 'folder', folder: 'Rosters' } }],
          end: 'all',
          direction: 'internal',
          group: 'G',
          description: 'why',
          expires: '2027-01-01T00:00:00.000Z',
          reviewOn: '2026-12-01T00:00:00.000Z',
        },
      ),
    ],
    [
      'several headers and a mark in every lane',
      rule(
        { every: true },
        {
          claims: [
            { stop: { to: 'quarantine', quarantine: 'security' } },
            { effect: { kind: 'header', value: 'X-A: 1', inEveryLane: true } },
            { effect: { kind: 'header', value: 'X-B: 2' } },
            { effect: { kind: 'subjectPrefix', value: '[x]' } },
          ],
        },
      ),
    ],
    [
      'one header and a mark in every lane',
      rule(
        { every: true },
        {
          claims: [
            { stop: { to: 'erase', confirmed: true } },
            { effect: { kind: 'subjectPrefix', value: '[x]', inEveryLane: true } },
            { effect: { kind: 'header', value: 'X-A: 1', inEveryLane: true } },
          ],
        },
      ),
    ],
    [
      'an effect that the sheet does not know, and a lowered must',
      rule(
        { every: true },
        {
          mandatory: true,
          overridesLists: false,
          claims: [{ stop: { to: 'refuse', reply: 'No' } }, { effect: { kind: 'forward', value: 'a@b.test' } }],
        },
      ),
    ],
    [
      'senders that count always',
      rule(
        { every: true },
        {
          except: [
            { sender: { kind: 'words', value: 'desk' }, counts: 'any' },
            { senderOn: 'l', counts: 'notFailed' },
          ],
        },
      ),
    ],
  ])('keeps %s', (_, r) => expect({ description: '', ...saved(r) }).toEqual({ description: '', ...r }))
  it.each([
    ['one address', { kind: 'address', value: 'a@b.test' }, 'a@b.test', ''],
    ['a domain with what is below', { kind: 'domainAndSubdomains', value: 'b.test' }, '*.b.test', ''],
    ['a network', { kind: 'network', value: '192.0.2.0/24' }, '192.0.2.0/24', ''],
    ['mailing list', { kind: 'mailingList', value: 'news.b.test' }, 'news.b.test', 'mailingList'],
    ['several of several kinds', [{ kind: 'address', value: 'a@b.test' }, { kind: 'domain', value: 'c.test' }], 'a@b.test\n@c.test', ''],
    ['several, of which one names its kind', [{ kind: 'words', value: 'c.test' }, { kind: 'address', value: 'a@b.test' }],
      'words: c.test\na@b.test', ''],
    ['words that look like a domain', [{ kind: 'words', value: 'c.test' }, { kind: 'words', value: 'desk' }], 'c.test\ndesk', 'words'],
  ] as [string, Extract<Condition, { sender: unknown }>['sender'], string, string][])(
    'writes senders as lines that are read as the same: %s',
    (_, sender, text, as) => {
      const row = rowOf({ sender })
      expect([row.text, row.as, conditionOf(row)]).toEqual([text, as, { sender }])
    },
  )
  it('keeps senders as they stand where no line says all of them', () => {
    const sender = [
      { kind: 'words' as const, value: 'desk, and more' },
      { kind: 'address' as const, value: 'a@b.test' },
    ]
    expect(rowOf({ sender })).toMatchObject({ kind: 'other', condition: { sender } })
  })
  it('says what is wrong with a sender, instead of saving another', () => {
    expect(lacks({ ...newRow('sender'), text: 'a@b.test\nnot an address' })).toMatch(/not an address/)
    expect(lacks(newRow('sender'))).toBe('Enter the address or domain.')
  })
  it('asks for what is missing, deep in a group too', () => {
    const group = { ...newRow('group'), rows: [newRow('every'), { ...newRow('group'), rows: [newRow('list')] }] }
    expect(lacks(group)).toBe('Choose a list.')
    expect(lacks({ ...group, rows: [] })).toMatch(/Add a condition/)
    expect(lacks(newRow('every'))).toBeNull()
  })
  it('proposes a name from what a rule looks for', () => {
    const sheet = blankSheet('organisation')
    expect(proposedName({ ...sheet, when: [{ ...newRow('phrases'), text: 'release fee, fee' }] }, id => id)).toBe(
      'Release fee',
    )
    expect(
      proposedName(
        { ...sheet, when: [newRow('phrases'), { ...newRow('list'), condition: { senderOn: 'l' } }] },
        () => 'Partners',
      ),
    ).toBe('From Partners')
  })
  it('reads phrases as they were written, weights behind them', () => {
    expect(readPhrases('a ×2\n"b, c" , d\n\nd')).toEqual([{ text: 'a', weight: 2 }, 'b, c', 'd'])
    expect(readPhrases(writtenPhrases([{ text: 'a', weight: 0.5 }, 'b, c']))).toEqual([
      { text: 'a', weight: 0.5 },
      'b, c',
    ])
  })
})
