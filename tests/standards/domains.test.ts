// The Public Suffix List's own test vectors (publicsuffix.org, test_psl.txt, public domain; the copy that Debian's
// package publicsuffix 20230209 carries), and UTS #46 examples.
import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { domainToAscii, makeAddress, parseContent, registrableDomain } from '#core'

const vectors = [
  ...readFileSync(new URL('data/test_psl.txt', import.meta.url), 'utf8').matchAll(
    /^checkPublicSuffix\((null|'[^']*'), (null|'[^']*')\);/gm,
  ),
]
  .map(m => [m[1], m[2]].map(t => (t === 'null' ? null : t!.slice(1, -1))) as [string | null, string | null])
  // An empty label at the front is no domain at all; domainToAscii refuses it before the list is asked.
  .filter(([domain]) => domain !== null && !domain.startsWith('.'))

describe('registrable domains: DKIM of one customer would speak for another under the same public suffix', () => {
  it('has the vectors', () => expect(vectors.length).toBeGreaterThan(70))
  it.each(vectors)('%s -> %s', (domain, registrable) => {
    const ascii = domainToAscii(domain!)
    expect(ascii && registrableDomain(ascii)).toBe(registrable && domainToAscii(registrable))
  })
})

describe('UTS #46: one domain in two spellings would slip past its entry', () => {
  it.each([
    // UTS #46, non-transitional processing: examples of its tables, from memory
    ['Bloß.de', 'xn--blo-7ka.de'],
    ['BLOẞ.de', 'xn--blo-7ka.de'],
    ['u\u0308.com', 'xn--tda.com'],
    ['Ü.com', 'xn--tda.com'],
    ['xn--tda.com', 'xn--tda.com'],
    ['日本語。ＪＰ', 'xn--wgv71a119e.jp'],
  ])('%s -> %s', (written, ascii) => expect(domainToAscii(written)).toBe(ascii))
  it('refuses what is no domain', () => {
    for (const bad of ['', 'a b', '..', 'a..b', 'x@y', `${'a'.repeat(64)}.example`])
      expect(domainToAscii(bad)).toBeNull()
  })
})

describe('addresses (RFC 5321, RFC 5233): an allowed sender would not be recognised', () => {
  it('folds what may be folded and nothing else', () => {
    expect(makeAddress('Ines.VARGA+Orders@Saltmere.EXAMPLE')).toMatchObject({
      key: 'ines.varga+orders@saltmere.example',
      keyWithoutTag: 'ines.varga@saltmere.example',
    })
    expect(makeAddress('i.nes@saltmere.example').key).not.toBe(makeAddress('ines@saltmere.example').key)
    expect(makeAddress('"very.(),:;<>[]@\\"quoted"@example.com')).toMatchObject({
      local: 'very.(),:;<>[]@"quoted',
      domain: 'example.com',
    })
  })
})

describe('internationalised mail (RFC 6532, RFC 6531): a sender in another script would be read as somebody else', () => {
  it('reads UTF-8 in header fields and compares domains by their A-labels', async () => {
    const m = await parseContent(
      new TextEncoder().encode('From: Zoë Ćirić <zoë@bücher.example>\r\nTo: 用户@例え.test\r\nSubject: Größe\r\n\r\nx'),
    )
    expect(m.from[0]).toMatchObject({
      name: 'Zoë Ćirić',
      key: 'zoë@xn--bcher-kva.example',
      domainUnicode: 'bücher.example',
    })
    expect(m.to[0]).toMatchObject({ local: '用户', domain: 'xn--r8jz45g.test' })
    expect(m.subject).toBe('Größe')
  })
  it('takes an accent for the same however it is written (NFC)', () =>
    expect(makeAddress('zoe\u0308@x.test').key).toBe(makeAddress('zoë@x.test').key))
})
