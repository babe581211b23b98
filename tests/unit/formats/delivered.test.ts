import { describe, expect, it } from 'vitest'
import { parseContent } from '#core'
import { deliveredBytes } from '#core/formats'

const bytes = new TextEncoder().encode('From: a@x.test\r\nSUBJECT: Hello\r\n\r\nSubject: not this one\r\n')

describe('effects on delivered mail: a mark would be lost, or a value break the header open', () => {
  it('adds headers on top and the mark before the subject', async () => {
    const m = await parseContent(
      deliveredBytes(bytes, [
        { kind: 'header', value: 'X-Gate: seen' },
        { kind: 'subjectPrefix', value: '[Äußern]' },
        { kind: 'tag', value: 't' },
      ]),
    )
    expect([m.headers[0]!.name, m.headers[0]!.value, m.subject, m.segments[1]!.text.trim()]).toEqual([
      'X-Gate',
      'seen',
      '[Äußern] Hello',
      'Subject: not this one',
    ])
  })
  it('lets no value begin a field of its own', async () => {
    const m = await parseContent(
      deliveredBytes(bytes, [
        { kind: 'header', value: 'X-A: 1\r\nBcc: everyone@x.test' },
        { kind: 'header', value: 'no field' },
        { kind: 'subjectPrefix', value: 'x\r\n\r\ny' },
      ]),
    )
    expect(m.headers.map(h => h.name)).toEqual(['X-A', 'From', 'SUBJECT'])
  })
  it('gives a message without a subject one', async () =>
    expect(
      (
        await parseContent(
          deliveredBytes(new TextEncoder().encode('From: a@x.test\r\n\r\nx'), [{ kind: 'subjectPrefix', value: '[m]' }]),
        )
      ).subject,
    ).toBe('[m]'))
})
