// What helps with a sheet: beginnings, copies for others, exceptions from a copy's own facts.
import { describe, expect, it } from 'vitest'
import { readRules } from '../../support/rules'
import { copiedWords } from '../../../app/composables/copiedTo'
import { exceptionsFor } from '../../../app/composables/exceptionsFor'
import { isBlank, blankSheet, ruleOf } from '../../../app/composables/ruleSheet'
import { readyRules, startingSentences } from '../../../app/composables/startingSentences'
import { conditionOf, lacks } from '../../../app/composables/conditionRows'
import { letter, policy } from '../../support/build'

describe('a starting sentence', () => {
  const of = (id: string, owner = 'organisation', known: string | null = 'partners') =>
    ruleOf([...startingSentences(known), ...readyRules()].find(s => s.id === id)!.sheet(owner))

  it('is a whole rule as soon as what is left open is filled in: nobody begins with what cannot be saved', () => {
    for (const start of [...startingSentences(null), ...readyRules()]) {
      const sheet = start.sheet('organisation')
      expect(isBlank(sheet)).toBe(false)
      for (const row of [...sheet.when, ...sheet.except]) if (lacks(row)) Object.assign(row, { text: 'a@customer.example' })
      expect(readRules([{ ...ruleOf(sheet), id: 'r', name: start.name }])).toEqual([])
    }
  })

  it('there are eight, and all but the one for a customer can say their impact before they are opened', () => {
    const starts = startingSentences(null)
    expect(starts.map(s => s.id)).toEqual(['claims', 'bank', 'invoices', 'executables', 'unsubscribe', 'newsletters', 'big', 'allow'])
    expect(starts.filter(s => s.sheet('organisation').when.some(row => lacks(row))).map(s => s.id)).toEqual(['allow'])
  })

  it('does what it says: holds, files, keeps, keeps out', () => {
    const held = [{ stop: { to: 'quarantine', quarantine: 'general' } }]
    for (const id of ['claims', 'bank', 'executables']) expect([of(id).claims, of(id).mandatory]).toEqual([held, true])
    expect(of('claims').when).toMatchObject({ any: [{ all: [{ defect: 'claims own domain' }, { none: [{ authentication: 'pass' }] }] }, {}] })
    expect(of('invoices')).toMatchObject({ claims: held, except: [{ senderOn: 'partners' }] })
    expect(of('unsubscribe')).toMatchObject({ claims: [{ stop: { to: 'spam' } }], except: [{ senderOn: 'partners' }] })
    expect(of('unsubscribe', 'organisation', null).except).toEqual([])
    expect(of('newsletters').claims).toEqual([{ place: { to: 'lowPriority' } }])
    expect(of('big').claims).toEqual([{ effect: { kind: 'tag', value: 'big attachment' } }])
    expect(of('allow').claims).toEqual([{ protect: ['spam', 'quarantine', 'delete', 'refuse'] }, { place: { to: 'inbox' } }])
  })

  it('has one for mail in your own name, and one for users’ names: held, and nobody’s list overrides it', () => {
    const [domain, names] = ['own-domain', 'user-names'].map((id) => {
      return { ours: of(id), own: of(id, 'person:oskar') }
    })
    expect(domain!.ours).toMatchObject({
      mandatory: true,
      when: { all: [{ defect: 'claims own domain' }, { none: [{ authentication: 'pass' }] }] },
      claims: [{ stop: { to: 'quarantine', quarantine: 'general' } }],
    })
    expect(names!.ours).toMatchObject({ mandatory: true, when: { userName: true } })
    expect([domain!.own.mandatory, names!.own.mandatory]).toEqual([undefined, undefined])
  })

  it('a sheet on which something was said is blank no more, and offers no beginning that would lose it', () => {
    const blank = blankSheet('organisation')
    expect(isBlank(blank)).toBe(true)
    expect(isBlank({ ...blank, name: 'x' })).toBe(false)
    expect(isBlank({ ...blank, main: 'bin' })).toBe(false)
    expect(isBlank({ ...blank, when: [{ ...blank.when[0]!, text: 'x' }] })).toBe(false)
    expect(isBlank({ ...blank, when: [] })).toBe(false)
  })
})

describe('a rule that is copied to somebody else', () => {
  const stops = { claims: [{ stop: { to: 'refuse' as const } }], mandatory: true }

  it('says what is otherwise there, and nothing where it stays', () => {
    expect(copiedWords(stops, 'organisation', 'organisation')).toEqual([])
    const words = copiedWords(stops, 'organisation', 'person:oskar').join(' ')
    expect(words).toContain('one user’s mail only')
    expect(words).toContain('no longer mandatory')
    expect(words).toContain('cannot refuse or discard mail')
  })

  it('from one’s own to all says that everybody’s own comes before it', () => {
    const words = copiedWords({ ...stops, mandatory: false }, 'person:oskar', 'organisation').join(' ')
    expect(words).toContain('the mail of all users')
    expect(words).toContain('Users’ own lists and rules come before it.')
  })
})

describe('an exception for mail like a copy', () => {
  const facts = async (over: Parameters<typeof letter>[0], list: string | null = null) => {
    const { content, attempt } = await letter(over)
    return { facts: { ...content, list: { ...content.list, id: list }, attempt } } as unknown as Parameters<typeof exceptionsFor>[0]
  }

  it('names the address first, then its list, then its domain', async () => {
    const ways = exceptionsFor(await facts({ from: 'Anna <anna@x.test>', auth: 'pass' }, 'news.x.test'))
    expect(ways.map(w => conditionOf(w.row))).toEqual([
      { sender: { kind: 'address', value: 'anna@x.test' } },
      { sender: { kind: 'mailingList', value: 'news.x.test' } },
      { sender: { kind: 'domain', value: 'x.test' } },
    ])
  })

  it('is none where nothing verified the sender: everybody who writes that From would be let in', async () => {
    expect(exceptionsFor(await facts({ from: 'anna@x.test' }))).toEqual([])
    expect(exceptionsFor(await facts({ from: 'anna@x.test', auth: 'fail' }, 'news.x.test'))).toEqual([])
  })

  it('is not made twice: the sentence would name the address twice', async () => {
    const there = [{ sender: { kind: 'address' as const, value: 'anna@x.test' } }]
    expect(exceptionsFor(await facts({ from: 'anna@x.test', auth: 'pass' }), there).map(w => w.words)).toEqual(['@x.test'])
  })

  it('as a rule’s exception is valid, also in a mandatory rule', async () => {
    const [way] = exceptionsFor(await facts({ from: 'anna@x.test', auth: 'pass' }))
    const rule = {
      id: 'r',
      name: 'r',
      owner: 'organisation',
      mandatory: true,
      state: 'enabled' as const,
      when: { phrases: ['x'] },
      except: [conditionOf(way!.row)],
      claims: [{ stop: { to: 'spam' as const } }],
    }
    expect(policy({ rules: [rule] }).rules[0]!.except).toHaveLength(1)
    expect(readRules([{ ...rule, except: [{ ...conditionOf(way!.row), counts: 'notFailed' }] }])).toEqual([
      expect.objectContaining({ message: 'in mandatory lists and rules only verified senders count' }),
    ])
  })
})
