import { zipSync, strToU8 } from 'fflate'
import { describe, expect, it } from 'vitest'
import { parseContent } from '#core'

const message = (parts: string) => parseContent(new TextEncoder().encode(`From: a@x.test\r\nDate: Tue, 24 Nov 2026 09:00:00 +0000\r\nMessage-ID: <1@x.test>\r\nSubject: s\r\nMIME-Version: 1.0\r\n${parts}`))
const html = (body: string) => message(`Content-Type: text/html; charset=utf-8\r\n\r\n${body}`)
const alternatives = (plain: string, rich: string) => message(`Content-Type: multipart/alternative; boundary=b\r\n\r\n--b\r\nContent-Type: text/plain\r\n\r\n${plain}\r\n--b\r\nContent-Type: text/html\r\n\r\n${rich}\r\n--b--\r\n`)
const at = async (content: ReturnType<typeof html>, place: string) => (await content).segments.filter(s => s.place === place).map(s => s.text).join('|')
const attached = (name: string, type: string, bytes: Uint8Array) => message(`Content-Type: multipart/mixed; boundary=b\r\n\r\n--b\r\nContent-Type: text/plain\r\n\r\nx\r\n--b\r\nContent-Type: ${type}; name="${name}"\r\nContent-Disposition: attachment; filename="${name}"\r\nContent-Transfer-Encoding: base64\r\n\r\n${Buffer.from(bytes).toString('base64').replace(/.{76}/g, '$&\r\n')}\r\n--b--\r\n`)

describe('hidden text: words that nobody reads would let a fraud past, or innocent words be taken for hidden', () => {
  it.each([
    ['a class', '<style>.x{display:none}</style><p class="a x">secret</p><p>seen</p>', 'seen', 'secret'],
    ['an id, the sheet after it', '<p id="q">secret</p><p>seen</p><style>#q { font-size: 0 }</style>', 'seen', 'secret'],
    ['a tag with a class', '<style>div.x,b{visibility:hidden}</style><div class="x">secret</div><p class="x">seen</p>', 'seen', 'secret'],
    ['colour on its own ground', '<style>.w{color:#FFF}</style><p class="w">secret</p><p>seen</p>', 'seen', 'secret'],
    ['the element’s own word against it', '<style>.x{display:none}</style><p class="x" style="display:block">seen</p>', 'seen', ''],
    ['what depends on the screen', '<style>@media (max-width:600px){.x{display:none}}</style><p class="x">seen</p>', 'seen', ''],
    ['what depends on what is around it', '<style>.a .x{display:none}</style><p class="x">seen</p>', 'seen', ''],
  ])('%s', async (_, body, own, hidden) => {
    expect([await at(html(body), 'own'), await at(html(body), 'hidden')]).toEqual([own, hidden])
  })
  it('a plain alternative that says something else is not what the reader sees', async () => {
    const differs = alternatives('Your regatta newsletter has arrived at last', '<p>Pay the release fee</p>')
    expect([await at(differs, 'own'), await at(differs, 'hidden')]).toEqual(['Pay the release fee', 'Your regatta newsletter has arrived at last'])
    expect(await at(alternatives('Pay the release fee, please\r\nhttps://x.test/pay', '<h1>Pay</h1><p>the <b>release fee</b>, please</p>'), 'hidden')).toBe('')
  })
})

describe('text of attachments: what is written there would not be seen by any rule', () => {
  const text = async (name: string, type: string, bytes: Uint8Array) => (await attached(name, type, bytes)).attachments[0]?.text
  it('reads plain text, CSV and HTML', async () => {
    expect(await text('a.txt', 'text/plain', strToU8('a release fee'))).toBe('a release fee')
    expect(await text('a.csv', 'text/csv', strToU8('fee;40\r\n'))).toContain('fee;40')
    expect(await text('a.html', 'text/html', strToU8('<p>release <b>fee</b></p>'))).toBe('release fee')
  })
  it('reads office documents, a word in two fonts as one', async () => {
    const docx = zipSync({ '[Content_Types].xml': strToU8('<Types/>'), 'word/document.xml': strToU8('<w:p><w:r><w:t>rel</w:t></w:r><w:r><w:t>ease fee &amp; more</w:t></w:r></w:p><w:p><w:t>next</w:t></w:p>') })
    expect(await text('a.docx', 'application/vnd.openxmlformats-officedocument.wordprocessingml.document', docx)).toBe('release fee & more\nnext')
  })
  it('is not blown up by a bomb', async () => {
    const bomb = zipSync({ 'word/document.xml': new Uint8Array(60_000_000) })
    expect(bomb.length).toBeLessThan(100_000)
    expect(await text('a.docx', 'application/vnd.openxmlformats-officedocument.wordprocessingml.document', bomb)).toBeUndefined()
    expect(await text('a.docx', 'application/zip', strToU8('PK\u0003\u0004 broken'))).toBeUndefined()
  })
})
