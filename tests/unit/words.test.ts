// What people are told: a sentence that is not so sends somebody looking in the wrong place.
import { describe, expect, it } from 'vitest'
import { attemptsText, attemptWords, listName, movedSentence, type AttemptReport } from '#core/words'

const names = { quarantines: [{ id: 'general', name: 'General', general: true }] }
const attempt = (over: Partial<AttemptReport> = {}): AttemptReport => ({
  at: '2026-11-24T09:41:30.000Z',
  client: '203.0.113.9',
  mailFrom: 'bounce@list.test',
  from: 'a@list.test',
  rcptTo: 'oskar@saltmere.example',
  subject: 'Tides',
  replyCode: 250,
  reply: '2.0.0 Taken in',
  repeat: false,
  copy: { lane: 'quarantine', quarantine: 'general', gone: null },
  sentence: 'Held in General because rule Fees found “fee” in the text.',
  onward: [],
  ...over,
})
const asked = { sender: 'a@list.test', after: '2026-11-01T00:00:00.000Z', before: '2026-11-27T00:00:00.000Z', timeZone: 'UTC' }

describe('what was tried at the door', () => {
  it.each<[string, Partial<AttemptReport>, string]>([
    ['taken', {}, 'accepted, and lies in the quarantine General now'],
    ['refused', { replyCode: 550, reply: '5.1.1 Nobody' }, 'refused: the sending server was told “550 5.1.1 Nobody”'],
    ['put off', { replyCode: 451, reply: 'Later' }, 'put off: the sending server was told “451 Later”, and to come again'],
    ['come before', { repeat: true }, 'accepted; the same message had come before, so it made no second copy'],
    [
      'erased',
      { copy: { lane: 'discarded', quarantine: null, gone: 'erased' } },
      'accepted, and erased by decision: nothing but this record is left',
    ],
    ['without a copy', { copy: null }, 'accepted'],
  ])('%s', (_, over, words) => expect(attemptWords(attempt(over), names)).toBe(words))

  it('as text names both senders, the answer, why, and each step onward', () => {
    const text = attemptsText(
      asked,
      [attempt({ onward: [{ at: '2026-11-25T10:00:00.000Z', words: 'Runa Keel released it to inbox' }] })],
      names,
    )
    expect(text).toBe(`Mail from a@list.test to anybody here, between 2026-11-01 00:00 UTC and 2026-11-27 00:00 UTC: one try to hand it `
      + `over.

2026-11-24 09:41 UTC
  from    bounce@list.test (From: a@list.test)
  to      oskar@saltmere.example
  subject Tides
  by      203.0.113.9
  came to accepted, and lies in the quarantine General now
  reply   250 2.0.0 Taken in
  why     Held in General because rule Fees found “fee” in the text.
  then    2026-11-25 10:00 UTC: Runa Keel released it to inbox
`)
  })
  it('is written in the time of the house', () =>
    expect(attemptsText({ ...asked, timeZone: 'America/St_Johns' }, [attempt()], names)).toContain(
      '\n2026-11-24 06:11 America/St_Johns\n',
    ))
  it('a null sender and a try without a recipient have words too', () => {
    const text = attemptsText(
      asked,
      [attempt({ mailFrom: '', from: null, rcptTo: null, subject: null, client: null, sentence: null })],
      names,
    )
    expect(text).toContain('from    the null sender\n  to      nobody yet\n  came to')
  })
})

describe('a copy that a person moved', () => {
  const copy = { lane: 'spam' as const, quarantineId: null, movedBy: 'Runa Keel' }
  it('its sentence begins with who sent it where', () => {
    expect(movedSentence(copy, 'Let into the inbox: nothing matched.', names)).toBe(
      'Runa Keel sent it to spam. Before that: let into the inbox: nothing matched.',
    )
    expect(movedSentence({ ...copy, lane: 'quarantine', quarantineId: 'general' }, 'Sent to spam.', names)).toBe(
      'Runa Keel sent it to the quarantine General. Before that: sent to spam.',
    )
  })
  it('of one that nobody moved it says nothing of that', () =>
    expect(movedSentence({ ...copy, movedBy: null }, 'Sent to spam.', names)).toBe('Sent to spam.'))
})

it('a list that is not chosen yet is none that is gone', () => {
  expect([listName({ lists: [] }, ''), listName({ lists: [] }, 'x')]).toEqual([
    'a list that is not chosen yet',
    'a list that is gone (x)',
  ])
})
