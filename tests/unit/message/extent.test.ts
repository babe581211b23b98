import { strToU8, zipSync } from 'fflate'
import { describe, expect, it } from 'vitest'
import { EXTENTS, parseContent } from '#core'

const HEAD =
  'From: a@x.test\r\nDate: Tue, 24 Nov 2026 09:00:00 +0000\r\nMessage-ID: <1@x.test>\r\nSubject: a subject\r\n'
const read = (text: string, extent: (typeof EXTENTS)[number]) =>
  parseContent(new TextEncoder().encode(text), { extent })
const codes = async (text: string, extent: (typeof EXTENTS)[number]) =>
  (await read(text, extent)).defects.map(d => d.code)

describe('less of a message is read where reading it took too long: it would not be taken at all, or nobody would know', () => {
  const letter = `${HEAD}\r\nshort words`
  const word = 'application/vnd.openxmlformats-officedocument.wordprocessingml.document'
  const document = Buffer.from(zipSync({ 'word/document.xml': strToU8('<w:t>words inside</w:t>') })).toString('base64')
  const withDocument = `${HEAD}Content-Type: multipart/mixed; boundary=b\r\n\r\n--b\r\n\r\nx\r\n--b\r\nContent-Type: ${word}; `
    + `name=a.docx\r\nContent-Transfer-Encoding: base64\r\n\r\n${document}\r\n--b--`

  it('tries them in this order', () => expect(EXTENTS).toEqual(['whole', 'closed', 'header']))
  it('a short letter is the same with documents closed', async () => {
    expect(await read(letter, 'closed')).toEqual(await read(letter, 'whole'))
  })
  it('documents stay closed and say so', async () => {
    expect((await read(withDocument, 'whole')).attachments[0]!.text).toBe('words inside')
    const closed = await read(withDocument, 'closed')
    expect([closed.attachments[0]!.text, closed.defects]).toEqual([
      undefined,
      [{ code: 'attachment not readable', detail: 'a.docx: reading took too long' }],
    ])
    // Its name, size and hash are known all the same.
    expect(closed.attachments[0]).toMatchObject({
      name: 'a.docx',
      sha256: (await read(withDocument, 'whole')).attachments[0]!.sha256,
    })
  })
  it('of a long text the first megabyte is read, and says so', async () => {
    const long = `${HEAD}\r\n${'the beginning '.repeat(90_000)} the end`
    const closed = await read(long, 'closed')
    expect([
      closed.segments[1]!.text.startsWith('the beginning'),
      closed.segments[1]!.text.includes('the end'),
    ]).toEqual([true, false])
    expect(await codes(long, 'closed')).toEqual(['read in part'])
    expect(await codes(long, 'whole')).toEqual([])
  })
  it('the header alone still says from whom, about what and when', async () => {
    const content = await read(withDocument, 'header')
    expect(content).toMatchObject({
      subject: 'a subject',
      date: '2026-11-24T09:00:00.000Z',
      from: [{ key: 'a@x.test' }],
      attachments: [],
    })
    expect(content.segments).toEqual([{ place: 'subject', text: 'a subject' }])
    expect(await codes(withDocument, 'header')).toEqual(['read by its header alone'])
  })
})
