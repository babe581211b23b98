import { zipSync, strToU8 } from 'fflate'
import PdfDocument from 'pdfkit'
import { describe, expect, it } from 'vitest'
import { parseContent } from '#core'

const message = (parts: string) =>
  parseContent(
    new TextEncoder().encode(
      `From: a@x.test\r\nDate: Tue, 24 Nov 2026 09:00:00 +0000\r\nMessage-ID: <1@x.test>\r\nSubject: s\r\nMIME-Version: 1.0\r\n${parts}`,
    ),
  )
const html = (body: string) => message(`Content-Type: text/html; charset=utf-8\r\n\r\n${body}`)
const alternatives = (plain: string, rich: string) =>
  message(
    `Content-Type: multipart/alternative; boundary=b\r\n\r\n--b\r\nContent-Type: text/plain\r\n\r\n${plain}\r\n--b\r\nContent-Type: `
    + `text/html\r\n\r\n${rich}\r\n--b--\r\n`,
  )
const at = async (content: ReturnType<typeof html>, place: string) =>
  (await content).segments
    .filter(s => s.place === place)
    .map(s => s.text)
    .join('|')
const attached = (name: string, type: string, bytes: Uint8Array) =>
  message(
    `Content-Type: multipart/mixed; boundary=b\r\n\r\n--b\r\nContent-Type: text/plain\r\n\r\nx\r\n--b\r\nContent-Type: ${type}; `
    + `name="${name}"\r\nContent-Disposition: attachment; filename="${name}"\r\nContent-Transfer-Encoding: `
    + `base64\r\n\r\n${Buffer.from(bytes).toString('base64').replace(/.{76}/g, '$&\r\n')}\r\n--b--\r\n`,
  )

describe('hidden text: words that nobody reads would let a fraud past, or innocent words be taken for hidden', () => {
  it.each([
    ['a class', '<style>.x{display:none}</style><p class="a x">secret</p><p>seen</p>', 'seen', 'secret'],
    [
      'an id, the sheet after it',
      '<p id="q">secret</p><p>seen</p><style>#q { font-size: 0 }</style>',
      'seen',
      'secret',
    ],
    [
      'a tag with a class',
      '<style>div.x,b{visibility:hidden}</style><div class="x">secret</div><p class="x">seen</p>',
      'seen',
      'secret',
    ],
    ['colour on its own ground', '<style>.w{color:#FFF}</style><p class="w">secret</p><p>seen</p>', 'seen', 'secret'],
    [
      'the element’s own word against it',
      '<style>.x{display:none}</style><p class="x" style="display:block">seen</p>',
      'seen',
      '',
    ],
    [
      'what depends on the screen',
      '<style>@media (max-width:600px){.x{display:none}}</style><p class="x">seen</p>',
      'seen',
      '',
    ],
    ['what depends on what is around it', '<style>.a .x{display:none}</style><p class="x">seen</p>', 'seen', ''],
  ])('%s', async (_, body, own, hidden) => {
    expect([await at(html(body), 'own'), await at(html(body), 'hidden')]).toEqual([own, hidden])
  })
  it('a plain alternative that says something else is not what the reader sees', async () => {
    const differs = alternatives('Your regatta newsletter has arrived at last', '<p>Pay the release fee</p>')
    expect([await at(differs, 'own'), await at(differs, 'hidden')]).toEqual([
      'Pay the release fee',
      'Your regatta newsletter has arrived at last',
    ])
    expect(
      await at(
        alternatives(
          'Pay the release fee, please\r\nhttps://x.test/pay',
          '<h1>Pay</h1><p>the <b>release fee</b>, please</p>',
        ),
        'hidden',
      ),
    ).toBe('')
  })
})

describe('text of attachments: what is written there would not be seen by any rule', () => {
  const text = async (name: string, type: string, bytes: Uint8Array) =>
    (await attached(name, type, bytes)).attachments[0]?.text
  it('reads plain text, CSV and HTML', async () => {
    expect(await text('a.txt', 'text/plain', strToU8('a release fee'))).toBe('a release fee')
    expect(await text('a.csv', 'text/csv', strToU8('fee;40\r\n'))).toContain('fee;40')
    expect(await text('a.html', 'text/html', strToU8('<p>release <b>fee</b></p>'))).toBe('release fee')
  })
  it('reads office documents, a word in two fonts as one', async () => {
    const docx = zipSync({
      '[Content_Types].xml': strToU8('<Types/>'),
      'word/document.xml': strToU8(
        '<w:p><w:r><w:t>rel</w:t></w:r><w:r><w:t>ease fee &amp; more</w:t></w:r></w:p><w:p><w:t>next</w:t></w:p>',
      ),
    })
    expect(await text('a.docx', 'application/vnd.openxmlformats-officedocument.wordprocessingml.document', docx)).toBe(
      'release fee & more\nnext',
    )
  })
  it('is not blown up by a bomb', async () => {
    const bomb = zipSync({ 'word/document.xml': new Uint8Array(60_000_000) })
    expect(bomb.length).toBeLessThan(100_000)
    expect(
      await text('a.docx', 'application/vnd.openxmlformats-officedocument.wordprocessingml.document', bomb),
    ).toBeUndefined()
    expect(await text('a.docx', 'application/zip', strToU8('PK\u0003\u0004 broken'))).toBeUndefined()
  })
  // The documents are written by pdfkit, compressed as it does by default; the plain one is ISO 32000-1 Annex H.3 (from memory).
  const pdf = (write: (document: PDFKit.PDFDocument) => unknown, options: PDFKit.PDFDocumentOptions = {}) =>
    new Promise<Uint8Array>((resolve) => {
      const document = new PdfDocument(options)
      const chunks: Buffer[] = []
      document.on('data', (chunk: Buffer) => chunks.push(chunk)).on('end', () => resolve(Buffer.concat(chunks)))
      write(document)
      document.end()
    })
  it('reads PDF: every page, accents, and a word that is drawn in two pieces', async () => {
    const two = await pdf(d =>
      d.text('Rechnung für Straße 5').text('relea', { continued: true }).text('se fee').addPage().text('second page'),
    )
    expect(
      (await text('a.pdf', 'application/pdf', two))
        ?.split('\n')
        .map(l => l.trim())
        .filter(Boolean),
    ).toEqual(['Rechnung für Straße 5', 'release fee', 'second page'])
    const plain = strToU8(
      '%PDF-1.4\n1 0 obj\n<< /Type /Catalog /Pages 3 0 R >>\nendobj\n3 0 obj\n<< /Type /Pages /Kids [ 4 0 R ] /Count 1 >>\nendobj\n4 0 '
      + 'obj\n<< /Type /Page /Parent 3 0 R /MediaBox [ 0 0 612 792 ] /Contents 5 0 R /Resources << /Font << /F1 7 0 R >> >> '
      + '>>\nendobj\n5 0 obj\n<< /Length 44 >>\nstream\nBT\n/F1 24 Tf\n100 100 Td ( Hello World ) Tj\nET\nendstream\nendobj\n7 0 '
      + 'obj\n<< /Type /Font /Subtype /Type1 /Name /F1 /BaseFont /Helvetica /Encoding /MacRomanEncoding >>\nendobj\ntrailer\n<< '
      + '/Root 1 0 R >>\n%%EOF\n',
    )
    expect(await text('no-name', 'application/octet-stream', plain)).toContain('Hello World')
  })
  it('says so where a document cannot be looked into', async () => {
    const defect = async (bytes: Uint8Array) =>
      (await attached('a.pdf', 'application/pdf', bytes)).defects
        .filter(d => d.code === 'attachment not readable')
        .map(d => d.detail)
    expect(await defect(await pdf(d => d.text('x'), { userPassword: 'secret' }))).toEqual([
      'a.pdf: protected by a password',
    ])
    expect(await defect(strToU8('%PDF-1.4 and then nothing'))).toEqual(['a.pdf: malformed'])
    expect(await defect(await pdf(d => d.text('x')))).toEqual([])
    expect(await defect(await pdf(d => d.text('x').addContent(' '.repeat(70_000_000))))).toEqual([
      'a.pdf: unpacks to more than is safe',
    ])
    const endless = await pdf((d) => {
      for (let i = 0; i < 400; i++) d.addPage().text('fill '.repeat(400))
    })
    expect((await text('a.pdf', 'application/pdf', endless))!.length).toBeLessThanOrEqual(256 * 1024)
  })
  it('says so where some of a document is left out, and where an archive lies in an archive', async () => {
    const said = async (name: string, type: string, bytes: Uint8Array) =>
      (await attached(name, type, bytes)).defects.map(d => `${d.code}: ${d.detail}`)
    const long = await pdf((d) => {
      for (let i = 0; i < 60; i++) d.addPage().text('page')
    })
    expect(await said('a.pdf', 'application/pdf', long)).toEqual([
      'attachment read in part: a.pdf: only the first 50 pages are read',
    ])
    const word = 'application/vnd.openxmlformats-officedocument.wordprocessingml.document'
    const bomb = zipSync({ 'word/document.xml': new Uint8Array(60_000_000) })
    expect(await said('a.docx', word, bomb)).toEqual([
      'attachment read in part: a.docx: word/document.xml unpacks to more than is safe and is not read',
    ])
    const nested = zipSync({ 'inner.zip': zipSync({ 'pay.exe': strToU8('x') }) })
    expect(await said('a.zip', 'application/zip', nested)).toEqual([
      'archive not opened: a.zip: not all names of what is inside could be read',
    ])
    const cut = zipSync({ 'a.txt': strToU8('words') }).subarray(0, 40)
    expect((await said('a.zip', 'application/zip', cut)).map(d => d.split(':')[0])).toContain('archive not opened')
  })
})
