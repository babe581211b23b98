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
  reply: '2.0.0 Message accepted',
  repeat: false,
  copy: { lane: 'quarantine', quarantine: 'general', gone: null },
  sentence: 'Held in quarantine “General” because rule “Fees” found “fee” in the text.',
  onward: [],
  ...over,
})
const asked = {
  sender: 'a@list.test',
  after: '2026-11-01T00:00:00.000Z',
  before: '2026-11-27T00:00:00.000Z',
  timeZone: 'UTC',
  audience: 'internal' as const,
}

describe('the message log', () => {
  it.each<[string, Partial<AttemptReport>, string]>([
    ['taken', {}, 'accepted; now in quarantine “General”'],
    ['refused', { replyCode: 550, reply: '5.1.1 Nobody' }, 'refused: the sending server received “550 5.1.1 Nobody”'],
    ['put off', { replyCode: 451, reply: 'Later' }, 'deferred: the sending server received “451 Later” and can try again'],
    ['come before', { repeat: true }, 'accepted; a repeat of a message that had already arrived, so it was not stored twice'],
    [
      'erased',
      { copy: { lane: 'discarded', quarantine: null, gone: 'erased' } },
      'accepted, then deleted permanently; only this log entry is left',
    ],
    ['without a copy', { copy: null }, 'accepted'],
  ])('%s', (_, over, words) => expect(attemptWords(attempt(over), names)).toBe(words))

  const released = { at: '2026-11-25T10:00:00.000Z', words: 'Runa Keel released it to Inbox' }
  const head = `Mail from a@list.test to any recipient, between 1 November 2026, 00:00 (UTC) and 27 November 2026, 00:00 (UTC): 1 delivery `
    + `attempt.

24 November 2026, 09:41 (UTC)
  from    bounce@list.test (From: a@list.test)
  to      oskar@saltmere.example
  subject Tides
  by      203.0.113.9
`
  it('as text names both senders, the reply, the reason, and each step onward', () =>
    expect(attemptsText(asked, [attempt({ onward: [released] })], names)).toBe(`${head}  result  accepted; now in quarantine “General”
  reply   250 2.0.0 Message accepted
  why     Held in quarantine “General” because rule “Fees” found “fee” in the text.
  then    25 November 2026, 10:00 (UTC): Runa Keel released it to Inbox
`))
  it('for the sender it names no rule, no words that were found, no quarantine and no colleague', () =>
    expect(attemptsText({ ...asked, audience: 'sender' }, [attempt({ onward: [released] })], names)).toBe(
      `${head}  result  accepted; held for review
  reply   250 2.0.0 Message accepted
`,
    ))
  it.each<[string, Partial<AttemptReport>, string]>([
    ['spam', { copy: { lane: 'spam', quarantine: null, gone: null } }, 'accepted; delivered to the spam folder'],
    ['low priority', { copy: { lane: 'lowPriority', quarantine: null, gone: null } }, 'accepted and delivered'],
    ['bin', { copy: { lane: 'bin', quarantine: null, gone: null } }, 'accepted'],
    ['discarded', { copy: { lane: 'discarded', quarantine: null, gone: 'discarded' } }, 'accepted'],
    ['refused', { replyCode: 550, reply: '5.1.1 Nobody', copy: null }, 'refused: the sending server received “550 5.1.1 Nobody”'],
  ])('tells the sender of %s no more than the sending server may know', (_, over, words) =>
    expect(attemptsText({ ...asked, audience: 'sender' }, [attempt(over)], names)).toContain(`\n  result  ${words}\n`))
  it('is written in the time zone of the organisation', () =>
    expect(attemptsText({ ...asked, timeZone: 'America/St_Johns' }, [attempt()], names)).toContain(
      '\n24 November 2026, 06:11 (America/St_Johns)\n',
    ))
  it('a null sender and an attempt without a recipient have words too', () => {
    const text = attemptsText(
      asked,
      [attempt({ mailFrom: '', from: null, rcptTo: null, subject: null, client: null, sentence: null })],
      names,
    )
    expect(text).toContain('from    the null sender\n  to      no recipient given\n  result')
  })
  it('says that nothing arrived, and whom to ask', () =>
    expect(attemptsText(asked, [], names)).toContain('it never arrived here.\nNo server offered such a message in that time'))
})

describe('a copy that a person moved', () => {
  const copy = { lane: 'spam' as const, quarantineId: null, movedBy: 'Runa Keel' }
  it('its sentence begins with who sent it where', () => {
    expect(movedSentence(copy, 'Delivered to Inbox: no list or rule matched.', names)).toBe(
      'Runa Keel moved it to Spam. Before that: delivered to Inbox: no list or rule matched.',
    )
    expect(movedSentence({ ...copy, lane: 'quarantine', quarantineId: 'general' }, 'Moved to Spam.', names)).toBe(
      'Runa Keel moved it to quarantine “General”. Before that: moved to Spam.',
    )
  })
  it('of one that nobody moved it says nothing of that', () =>
    expect(movedSentence({ ...copy, movedBy: null }, 'Moved to Spam.', names)).toBe('Moved to Spam.'))
})

it('a list that is not chosen yet is none that is gone', () => {
  expect([listName({ lists: [] }, ''), listName({ lists: [] }, 'x')]).toEqual([
    '(no list chosen)',
    '(deleted, or not yours to see)',
  ])
})
