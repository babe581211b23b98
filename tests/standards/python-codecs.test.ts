// The small recipients against Python's standard library (Debian's python3): base64, quoted-printable, character sets, encoded
// words, dates and lists of mailboxes, all generated and seeded.
import { execFileSync } from 'node:child_process'
import { beforeAll, describe, expect, it } from 'vitest'
import { mailboxes, readDate } from '#core/message'
import { decodeText } from '../../core/message/charset'
import { decodeWords } from '../../core/message/encoded-words'
import { decodeBase64, decodeQuotedPrintable } from '../../core/message/transfer'
import { Random } from '../../demo'

const random = new Random(77)
const many = <T>(count: number, make: (i: number) => T): T[] => Array.from({ length: count }, (_, i) => make(i))
const hex = (bytes: Uint8Array) => Buffer.from(bytes).toString('hex')
const bytesOf = (length: number) => Buffer.from(many(length, () => random.between(0, 255)))
const latin1 = (text: string) => Uint8Array.from(Buffer.from(text, 'latin1'))

/** Base64 in lines of any length, padded as it should be. */
const base64 = many(400, () => {
  const lines =
    bytesOf(random.between(0, 90))
      .toString('base64')
      .match(new RegExp(`.{1,${random.between(4, 76)}}`, 'g')) ?? []
  return lines.join(random.pick(['', '\r\n', '\n', ' \r\n']))
})

/** Quoted-printable as programs write it, and as they should not: bare signs, blanks at the end of lines. */
const quoted = many(400, () =>
  many(random.between(1, 40), () =>
    random.pick(['a', 'words ', '=C3=A9', '=3D', '=e9', '\n', ' \n', '=\n', '\t', '=20', 'x=\n', '.', '=41']),
  ).join(''),
)

const SETS: [charset: string, python: string, text: string][] = [
  ['windows-1252', 'cp1252', 'it’s “5 €” — Größe'],
  ['iso-8859-1', 'cp1252', 'Größe, naïveté'],
  ['iso-8859-2', 'iso8859-2', 'Łódź, Dvořák'],
  ['iso-8859-15', 'iso8859-15', '5 € für Zoë'],
  ['windows-1251', 'cp1251', 'Привет, порт'],
  ['koi8-r', 'koi8-r', 'Привет, порт'],
  ['iso-8859-7', 'iso8859-7', 'Λιμάνι'],
  ['shift_jis', 'shift_jis', 'テスト 港'],
  ['euc-jp', 'euc_jp', 'テスト 港'],
  ['iso-2022-jp', 'iso2022_jp', 'テスト 港'],
  ['gb2312', 'gb2312', '港口费用'],
  ['gbk', 'gbk', '港口費用'],
  ['big5', 'big5', '港口費用'],
  ['euc-kr', 'euc_kr', '항구 요금'],
  ['utf-16le', 'utf-16-le', 'Größe 港'],
  ['utf-8', 'utf-8', 'Größe 港 😀'],
]

const WORDS = ['tide', 'berth', 'Größe', 'Привет', '港', 'a', 'fee']
const encodedWord = (text: string) =>
  random.chance(0.5)
    ? `=?utf-8?B?${Buffer.from(text).toString('base64')}?=`
    : `=?utf-8?q?${[...Buffer.from(text)].map(b => `=${b.toString(16).padStart(2, '0').toUpperCase()}`).join('')}?=`
const words = many(300, () =>
  many(random.between(1, 5), () =>
    random.chance(0.6) ? encodedWord(random.pick(WORDS)) : random.pick(['tide', 'berth', 'a', '=?', 'x=?']),
  ).join(' '),
)

const DAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']
const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec']
const two = (n: number) => String(n).padStart(2, '0')
const dates = many(500, () => {
  const day = random.chance(0.6) ? `${random.pick(DAYS)}, ` : ''
  const date = `${random.between(1, 28)} ${random.pick(MONTHS)} ${random.pick(['2026', '1999', '26', '99', '1970'])}`
  const time = `${two(random.between(0, 23))}:${two(random.between(0, 59))}${random.chance(0.7) ? `:${two(random.between(0, 59))}` : ''}`
  return `${day}${date} ${time} `
    + `${random.pick(['+0000', '-0500', '+0530', 'GMT', 'EST', 'PDT', 'UT', '+1400'])}${random.pick(['', ' (a comment)'])}`
})

const atom = () => random.pick(['oskar', 'ines.varga', 'a+b', 'x_y', 'desk'])
const domain = () => random.pick(['quayline.example', 'a.b.test', 'x-y.invalid'])
const mailbox = () =>
  random.pick([
    () => `${atom()}@${domain()}`,
    () => `<${atom()}@${domain()}>`,
    () => `${random.pick(['Ines', 'Oskar Brandt', 'J R Q'])} <${atom()}@${domain()}>`,
    () => `"${random.pick(['Brandt, Oskar', 'a@b.test', 'say \\"hi\\"'])}" <${atom()}@${domain()}>`,
    () => `${atom()}@${domain()} (A Name)`,
  ])()
const addresses = many(400, () => many(random.between(1, 4), mailbox).join(random.pick([', ', ',', ' ,\r\n ', ', , '])))

let python: {
  base64: string[]
  quoted: string[]
  charsets: string[]
  words: string[]
  dates: (number | null)[]
  addresses: [string, string][][]
}
let encoded: [string, string][]

beforeAll(() => {
  // The bytes come from Python's own encoders, so that none of ours is believed.
  const script =
    'import json,sys,base64; print(json.dumps([base64.b64encode(t.encode(c)).decode() for c, t in json.load(sys.stdin)]))'
  const made = JSON.parse(
    execFileSync('python3', ['-c', script], {
      input: JSON.stringify(SETS.map(([, c, t]) => [c, t])),
      encoding: 'utf8',
    }),
  ) as string[]
  encoded = SETS.map(([, name], i) => [name, made[i]!])
  // RFC 2045 6.7 (3): blanks at a line's end are to be deleted before anything else. Python leaves that to others.
  const bare = quoted.map(text =>
    text
      .split('\n')
      .map(line => line.trimEnd())
      .join('\n'),
  )
  const asked = { base64, quoted: bare, charsets: encoded, words, dates, addresses }
  const file = new URL('data/codec_facts.py', import.meta.url).pathname
  python = JSON.parse(
    execFileSync('python3', [file], { input: JSON.stringify(asked), encoding: 'utf8', maxBuffer: 1e8 }),
  )
})

describe('transfer encodings (RFC 2045 6): a text would come out as other words', () => {
  it('base64 in lines of any length', () => {
    for (const [i, text] of base64.entries()) {
      const read = decodeBase64(latin1(text))
      expect([text, hex(read.bytes), read.cut, read.stray]).toEqual([text, python.base64[i], false, false])
    }
  })
  it('quoted-printable, well written or not', () => {
    for (const [i, text] of quoted.entries())
      expect([text, hex(decodeQuotedPrintable(latin1(text)).bytes)]).toEqual([text, python.quoted[i]])
  })
  it('says where base64 was cut, or holds what is none', () => {
    expect(decodeBase64(latin1('QUJD')).cut).toBe(false)
    expect(decodeBase64(latin1('QUJDQ')).cut).toBe(true)
    expect(decodeBase64(latin1('QUJD*QUJD'))).toMatchObject({ cut: false, stray: true })
    expect(Buffer.from(decodeBase64(latin1('QQ==QUJD')).bytes).toString()).toBe('AABC')
  })
})

describe('character sets (WHATWG Encoding Standard): a phrase would be other letters', () => {
  it.each(SETS)('%s', (charset, _, text) => {
    const at = SETS.findIndex(s => s[0] === charset)
    expect(decodeText(Buffer.from(encoded[at]![1], 'base64'), charset)).toEqual({
      text: python.charsets[at],
      unknown: false,
    })
    expect(python.charsets[at]).toBe(text)
  })
  it('the standard’s own table of windows-1252, 0x80 to 0x9F (index-windows-1252.txt, from memory)', () => {
    const table = '€\u0081‚ƒ„…†‡ˆ‰Š‹Œ\u008DŽ\u008F\u0090‘’“”•–—˜™š›œ\u009DžŸ'
    const bytes = Uint8Array.from(many(32, i => 0x80 + i))
    for (const label of ['windows-1252', 'iso-8859-1', 'latin1', 'cp1252', 'x-cp1252'])
      expect(decodeText(bytes, label).text).toBe(table)
  })
  it('sets that must not be read as such are guessed at, and said to be unknown', () => {
    for (const label of ['utf-7', 'x-unheard-of', 'hz-gb-2312'])
      expect(decodeText(latin1('words'), label)).toEqual({ text: 'words', unknown: true })
  })
})

describe('encoded words (RFC 2047): a subject would be read wrongly', () => {
  it('one after the other, among others, glued to nothing', () => {
    for (const [i, text] of words.entries()) expect([text, decodeWords(text)]).toEqual([text, python.words[i]])
  })
  it('a character that was cut in two between two words is whole', () => {
    expect(decodeWords('=?utf-8?q?Gr=C3?= =?utf-8?q?=B6=C3=9Fe?=')).toBe('Größe')
  })
  it('two words in ISO-2022-JP have nothing at the joint: a phrase across it is found (RFC 1468; Python’s email says the same)', () => {
    const words = '=?ISO-2022-JP?B?GyRCQEE1YT1xJE4bKEI=?=\r\n =?ISO-2022-JP?B?GyRCJCpDTiRpJDskRyQ5GyhC?='
    expect(decodeWords(words)).toBe('請求書のお知らせです')
  })
  it('what is none stays as it is', () => {
    for (const text of ['=?', '=?utf-8?x?a?=', '=??q?a?=', '=?utf-8?q?a', 'a =? b ?= c', '=?utf-8 x?q?a?='])
      expect(decodeWords(text)).toBe(text)
  })
})

describe('dates (RFC 5322 3.3, 4.3): a message would be older or newer than it is', () => {
  it('generated dates in every form', () => {
    for (const [i, text] of dates.entries()) {
      const read = readDate(text)
      expect([text, read === null ? null : Date.parse(read) / 1000]).toEqual([text, python.dates[i]])
    }
  })
  it.each([
    ['Fri, 21 Nov 1997 09(comment):   55  :  06 -0600', '1997-11-21T15:55:06.000Z'],
    ['21 Nov 97 09:55:06 GMT', '1997-11-21T09:55:06.000Z'],
    // RFC 5322 4.3: two digits below 50 are of this century, three are counted from 1900.
    ['1 Jan 49 00:00 +0000', '2049-01-01T00:00:00.000Z'],
    ['1 Jan 50 00:00 +0000', '1950-01-01T00:00:00.000Z'],
    ['1 Jan 126 00:00 +0000', '2026-01-01T00:00:00.000Z'],
    // RFC 5322 4.3: military zones were used both ways and count as -0000.
    ['1 Jan 2026 12:00 A', '2026-01-01T12:00:00.000Z'],
    ['31 Dec 2016 23:59:60 +0000', '2017-01-01T00:00:00.000Z'],
    ['29 Feb 2024 12:00 +0000', '2024-02-29T12:00:00.000Z'],
    // What is no zone by RFC 5322, as Python’s email.utils.parsedate_tz reads it.
    ['Sat, 21 Sep 2002 08:18:08 +-0500', '2002-09-21T08:18:08.000Z'],
    ['Sat, 21 Sep 2002 08:18:08 0530', '2002-09-21T02:48:08.000Z'],
    ['Sat, 21 Sep 2002 08:18:08 01800', '2002-09-20T14:18:08.000Z'],
    ['Sat, 21 Sep 2002 08:18:08 -500', '2002-09-21T13:18:08.000Z'],
    // asctime (ISO C 7.27.3.1), and with a zone.
    ['Sat Sep 21 08:18:08 2002', '2002-09-21T08:18:08.000Z'],
    ['Sat Sep  1 08:18:08 2002', '2002-09-01T08:18:08.000Z'],
    ['Sat Sep 21 08:18:08 -0700 2002', '2002-09-21T15:18:08.000Z'],
  ])('%s', (text, instant) => expect(readDate(text)).toBe(instant))
  it.each([
    'hello 1',
    '31 Feb 2026 09:00 +0000',
    '29 Feb 2026 09:00 +0000',
    '1 Jan 2026',
    '1 Jan 2026 25:00 +0000',
    '2026-01-01',
    '1 Foo 2026 09:00',
    '',
    '1 Jan 2026 09:00 +99',
    'Sat Sep 21 08:18:08 02',
    'Sat Sep 21 2002',
    '21 Sep 2002 08:18:08 99900',
  ])('“%s” is none', text => expect(readDate(text)).toBeNull())
})

describe('mailboxes (RFC 5322 3.4): an entry of a list would not catch its sender', () => {
  it('generated lists', () => {
    for (const [i, text] of addresses.entries()) {
      const ours = mailboxes([{ name: 'To', value: text.replace(/\r\n/g, '') }], 'to').map(a => [
        a.name,
        `${a.local}@${a.domain}`,
      ])
      expect([text, ours]).toEqual([text, python.addresses[i]!.filter(([, address]) => address)])
    }
  })
})
