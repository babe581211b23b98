import { existsSync, readdirSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { entryCatches, makeAddress, readEntryLine, readPolicy } from '#core'
import {
  ADDRESSED,
  EFFECT_KINDS,
  effectKindOf,
  effectWords,
  ENTRY_KINDS,
  entryKindOf,
  FACT_NAMES,
  factHolds,
  factKind,
  UserNames,
  factWords,
  foundWords,
  isCarriedOut,
  type EntryKind,
  type Fact,
  type FactName,
} from '#core/kinds'
import { conditionWords } from '#core/words'
import { envelope, message, TRUST } from '../../support/build'

const FIELDS = 'app/components/kinds/conditions'
const blankOf = (name: string) => ({ [name]: factKind(name as (typeof FACT_NAMES)[number]).blank }) as unknown as Fact
const withRule = (when: unknown) => ({
  format: 'sober-gate-policy',
  formatVersion: 3,
  trust: { ownDomains: ['x.test'] },
  rules: [
    {
      id: 'r',
      name: 'R',
      owner: 'organisation',
      state: 'enabled',
      when,
      except: [],
      claims: [{ stop: { to: 'spam' } }],
    },
  ],
})

describe('kinds of conditions: one that is not known everywhere would be read as another', () => {
  it('each has the field that it names, and no field is left over', () => {
    const named = FACT_NAMES.flatMap(n => factKind(n).field ?? [])
    for (const field of named) expect([field, existsSync(join(FIELDS, `${field}.vue`))]).toEqual([field, true])
    expect(readdirSync(FIELDS).sort()).toEqual([...new Set(named)].map(f => `${f}.vue`).sort())
  })
  it('each begins with a value that its own schema takes, unless it says what is lacking', () => {
    for (const name of FACT_NAMES) {
      const { lacks, blank } = factKind(name)
      const whole = (lacks?.(blank) ?? null) === null
      const read = readPolicy(withRule(blankOf(name)))
      expect([name, 'policy' in read]).toEqual([name, whole])
    }
  })
  // Two or more values of each kind, and what its sentence must name of them.
  const SAMPLES: Record<FactName, [value: unknown, named: string][]> = {
    addressed: ADDRESSED.map(value => [value, '']),
    attachment: [[{ kind: 'program' }, 'executable'], [{ name: '*.exe' }, '*.exe'], [{ name: '*.zip' }, '*.zip']],
    attachments: [[{ atLeast: 1 }, '1'], [{ atLeast: 4 }, '4'], [{ atMost: 4 }, '4']],
    authentication: [['pass', ''], ['fail', ''], ['none', ''], ['temperror', '']],
    date: [[{ of: 'sent', olderThan: 10 }, '10'], [{ of: 'received', olderThan: 10 }, '10'], [{ of: 'sent', newerThan: 10 }, '10'],
      [{ of: 'sent', after: '2026-01-01T00:00:00Z' }, '2026'], [{ of: 'sent', before: '2026-01-01T00:00:00Z' }, '2026']],
    defect: [[true, ''], ['no Date', 'no Date'], ['several From fields', 'several From fields']],
    direction: [['inbound', ''], ['outbound', ''], ['internal', '']],
    dmarcRequest: [['quarantine', 'quarantine'], ['reject', 'refuse']],
    every: [[true, '']],
    header: [['x-note', 'x-note'], ['x-mailer', 'x-mailer']],
    important: [[true, '']],
    methodResult: [[{ method: 'spf', result: 'fail' }, 'SPF'], [{ method: 'dkim', result: 'fail' }, 'DKIM'], [{ method: 'spf', result: 'pass' }, 'pass']],
    signedBy: [['mail.quayline.example', 'mail.quayline.example'], ['quayline.example', 'quayline.example']],
    mailingList: [[true, ''], ['list.bulk.example', 'list.bulk.example'], ['other.list', 'other.list']],
    upstreamVerdict: [[true, ''], ['label', 'Label']],
    userName: [[true, 'user']],
    recipient: [[{ kind: 'domain', value: 'x.test' }, 'x.test'], [{ kind: 'domainAndSubdomains', value: 'x.test' }, 'x.test']],
    script: [['Latin', 'Latin'], ['Cyrillic', 'Cyrillic']],
    size: [[{ atLeast: 2_000_000 }, '2'], [{ atMost: 2_000_000 }, '2'], [{ atLeast: 3_000_000 }, '3']],
  }
  it('each says what it asks for: two that differ never read the same, and what was written stands in the sentence', () => {
    const read = FACT_NAMES.flatMap(name => SAMPLES[name].map(([value, named]) => {
      const words = factWords({ [name]: value } as unknown as Fact, { trust: TRUST })
      expect([name, words]).toEqual([name, expect.stringContaining(named)])
      // No name of the code, no value that was left out.
      expect([name, /undefined|null|\[object|[a-z][A-Z]/.exec(words)?.[0]]).toEqual([name, undefined])
      return words
    }))
    expect(read.filter((words, i) => words.trim() === '' || read.indexOf(words) !== i)).toEqual([])
  })
  it('what is no kind is refused by name and never asked as another', async () => {
    const unknown = { colour: 'red' } as unknown as Fact
    expect(readPolicy(withRule(unknown))).toHaveProperty('problems')
    const m = await message('Subject: x\r\n\r\nx', envelope())
    const known = {
      message: m,
      recipient: m.attempt.envelopeSender!,
      direction: 'inbound',
      now: '2026-11-24T09:00:00Z',
      trust: TRUST,
      userNames: new UserNames([]),
    } as const
    expect(() => factHolds(unknown, known)).toThrow(/no kind of condition/)
    expect(() => conditionWords(unknown, { quarantines: [], lists: [], phraseSets: [] })).toThrow(
      /no kind of condition/,
    )
    expect(foundWords(unknown, 'what it showed')).toBe('what it showed')
  })
})

describe('kinds of entries: one that is read as a domain would block whom nobody named', () => {
  const SOME: Record<EntryKind, string> = {
    address: 'Ann@Quayline.example',
    domain: 'Quayline.example',
    domainAndSubdomains: '*.quayline.example',
    pattern: '*@*.quayline.example',
    words: 'chandlers  of',
    contains: 'hand  lers',
    mailingList: '<News.Regatta.example>',
    signedBy: '@Mail.Quayline.example',
    network: '192.0.2.9/24',
    everyone: '',
  }
  it.each(ENTRY_KINDS)('%s: what is canonical stays so, and its example is one', (kind) => {
    const { canonical, example } = entryKindOf(kind)
    const once = canonical(SOME[kind])
    expect(canonical(once as string)).toBe(once)
    expect(typeof canonical(example)).toBe('string')
  })
  it('every kind but everyone has a place of its own in the order, and what is wider is of a later kind or shorter', () => {
    expect(new Set(ENTRY_KINDS.map(k => entryKindOf(k).rank)).size).toBe(ENTRY_KINDS.length)
    for (const kind of ENTRY_KINDS) {
      const value = entryKindOf(kind).canonical(SOME[kind]) as string
      for (const wider of entryKindOf(kind).wider(value)) {
        const { rank, within } = entryKindOf(wider.kind as EntryKind)
        const own = entryKindOf(kind)
        expect(rank > own.rank || (rank === own.rank && within(wider.value) > own.within(value))).toBe(true)
      }
    }
  })
  it('part of a word is found by “contains” and not by “words”; too short a part is refused', () => {
    const subject = { address: makeAddress('no-reply@invoicing.example'), listId: null, client: null }
    expect(entryCatches({ kind: 'contains', value: 'Voicin' }, subject)).toBe(true)
    expect(entryCatches({ kind: 'words', value: 'Voicin' }, subject)).toBe(false)
    expect(entryCatches({ kind: 'contains', value: 'voiced' }, subject)).toBe(false)
    expect(entryKindOf('contains').canonical('no')).toEqual({ error: expect.stringContaining('at least 3 characters') })
    expect(readEntryLine('contains: voicin')).toEqual({ kind: 'contains', value: 'voicin' })
  })
  it('a kind that nobody made is refused', () => {
    const lists = [
      {
        id: 'l',
        name: 'L',
        owner: 'organisation',
        usualSide: 'block',
        enabled: true,
        entries: [{ id: 'e', kind: 'planet', value: 'x.test' }],
      },
    ]
    expect(readPolicy({ ...withRule({ every: true }), lists })).toMatchObject({
      problems: [{ path: '/lists/0/entries/0/kind' }],
    })
  })
})

describe('kinds of effects', () => {
  it('each that a form offers has its field, no field is left over, and what is written is read again', () => {
    const forms = EFFECT_KINDS.flatMap(k => effectKindOf(k).form ?? [])
    expect(readdirSync('app/components/kinds/effects').sort()).toEqual(forms.map(f => `${f.field}.vue`).sort())
    for (const { read, written } of forms)
      for (const values of [[], read('one'), read('one, two')]) expect(read(written(values))).toEqual(values)
  })
  it('what a form offers is carried out, and what is not carried out no form offers', () => {
    for (const kind of EFFECT_KINDS) expect([kind, effectKindOf(kind).form !== null]).toEqual([kind, isCarriedOut(kind)])
  })
  it('each is told without its value where it is a colleague’s, and no value shows', () => {
    for (const kind of EFFECT_KINDS) {
      expect([kind, effectWords({ kind, value: 'SECRET' }).length > 0]).toEqual([kind, true])
      expect(effectWords({ kind })).not.toMatch(/undefined|null|“”/)
    }
  })
})
