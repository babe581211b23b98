// RFC 2047 section 8 and RFC 2231 sections 3 to 4.1: the standards' own examples, from memory.
import { describe, expect, it } from 'vitest'
import { parseContent } from '#core'

const parse = (lines: string[]) => parseContent(new TextEncoder().encode([...lines, '', 'x'].join('\r\n')))

describe('RFC 2047 section 8: a rule on the subject would not see words that are written encoded', () => {
  it('reads the header examples', async () => {
    const m = await parse([
      'From: =?US-ASCII?Q?Keith_Moore?= <moore@cs.utk.edu>',
      'To: =?ISO-8859-1?Q?Keld_J=F8rn_Simonsen?= <keld@dkuug.dk>',
      'CC: =?ISO-8859-1?Q?Andr=E9?= Pirard <PIRARD@vm1.ulg.ac.be>',
      'Subject: =?ISO-8859-1?B?SWYgeW91IGNhbiByZWFkIHRoaXMgeW8=?=',
      ' =?ISO-8859-2?B?dSB1bmRlcnN0YW5kIHRoZSBleGFtcGxlLg==?=',
    ])
    expect([m.from[0]!.name, m.to[0]!.name, m.cc[0]!.name]).toEqual([
      'Keith Moore',
      'Keld Jørn Simonsen',
      'André Pirard',
    ])
    expect(m.subject).toBe('If you can read this you understand the example.')
  })

  it.each([
    ['=?ISO-8859-1?Q?a?=', 'a'],
    ['=?ISO-8859-1?Q?a?= b', 'a b'],
    ['=?ISO-8859-1?Q?a?= =?ISO-8859-1?Q?b?=', 'ab'],
    ['=?ISO-8859-1?Q?a?=  =?ISO-8859-1?Q?b?=', 'ab'],
    ['=?ISO-8859-1?Q?a?=\r\n    =?ISO-8859-1?Q?b?=', 'ab'],
    ['=?ISO-8859-1?Q?a_b?=', 'a b'],
    ['=?ISO-8859-1?Q?a?= =?ISO-8859-2?Q?_b?=', 'a b'],
  ])('shows %j as %j', async (written, shown) => {
    expect((await parse([`Subject: ${written}`])).subject).toBe(shown)
  })
})

describe('RFC 2231: an attachment could hide its name from a rule by writing it in pieces', () => {
  const name = async (disposition: string) => {
    const m = await parse([
      'MIME-Version: 1.0',
      'Content-Type: application/octet-stream',
      `Content-Disposition: attachment; ${disposition}`,
    ])
    return m.attachments[0]?.name
  }
  // Section 3 and 4 show the mechanisms on other parameters of Content-Type; here they stand on the file name.
  it('section 3, continuations', async () => {
    expect(await name('filename*0="ftp://"; filename*1="cs.utk.edu/pub/moore/bulk-mailer/bulk-mailer.tar"')).toBe(
      'ftp://cs.utk.edu/pub/moore/bulk-mailer/bulk-mailer.tar',
    )
  })
  it('section 4, character set and language', async () => {
    expect(await name('filename*=us-ascii\'en-us\'This%20is%20%2A%2A%2Afun%2A%2A%2A')).toBe('This is ***fun***')
  })
  it('section 4.1, both together', async () => {
    expect(
      await name(
        'filename*0*=us-ascii\'en\'This%20is%20even%20more%20; filename*1*=%2A%2A%2Afun%2A%2A%2A%20; filename*2="isn\'t it!"',
      ),
    ).toBe('This is even more ***fun*** isn\'t it!')
  })
})
