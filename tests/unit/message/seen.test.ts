// What a recipient sees is what the rules see: each message here shows its recipient a demand for a release fee, and was once let past.
import { describe, expect, it } from 'vitest'
import { decide, parseContent, parseMessage, type Content } from '#core'
import { envelope, NOW, OURS, policy, TRUST } from '../../support/build'

const HEAD =
  'From: a@x.test\r\nDate: Tue, 24 Nov 2026 09:00:00 +0000\r\nMessage-ID: <1@x.test>\r\nSubject: s\r\nMIME-Version: 1.0\r\n'
/** One character a byte. */
const bytes = (text: string) => Uint8Array.from([...text].map(c => c.charCodeAt(0)))
const parse = (text: string) => parseContent(bytes(text))
const html = (body: string) => `${HEAD}Content-Type: text/html; charset=utf-8\r\n\r\n${body}`
const plain = (body: string, more = '') => `${HEAD}Content-Type: text/plain; charset=utf-8${more}\r\n\r\n${body}`
const typed = (type: string, body: string) => `${HEAD}Content-Type: ${type}\r\n\r\n${body}`
const mixed = (...parts: string[]) =>
  typed(
    'multipart/mixed; boundary=b',
    `--b\r\nContent-Type: text/plain\r\n\r\nhello\r\n${parts.map(p => `--b\r\n${p}\r\n`).join('')}--b--\r\n`,
  )
const base64 = (text: string) => Buffer.from(text, 'latin1').toString('base64')
const at = (content: Content, place: string) =>
  content.segments
    .filter(s => s.place === place)
    .map(s => s.text)
    .join('|')
const codes = (content: Content) => content.defects.map(d => d.code)

const stop = policy({
  rules: [
    {
      id: 'r',
      name: 'r',
      owner: 'organisation',
      state: 'enabled',
      when: { phrases: ['release fee'] },
      except: [],
      claims: [{ stop: { to: 'spam' } }],
    },
  ],
})
const lane = async (text: string, rules = stop) =>
  decide(await parseMessage(bytes(text), envelope(), TRUST), `oskar@${OURS}`, rules, { now: NOW }).lane

describe('a phrase that the reader sees is stopped, whatever shape brings it', () => {
  const inner = 'From: q@y.test\r\nSubject: inner\r\n\r\nthe release fee is due'
  it.each<[string, string]>([
    ['a non-breaking space by name', html('<p>release&nbsp;fee</p>')],
    ['a non-breaking space by number', html('<p>release&#160;fee</p>')],
    ['an em space between two elements', html('<b>release</b>&emsp;<b>fee</b>')],
    ['noscript', html('<noscript>release fee</noscript>')],
    ['a textarea', html('<textarea>release fee</textarea>')],
    ['a choice', html('<select><option>release fee</select>')],
    ['a button', html('<input type=submit value="release fee">')],
    ['an object that cannot be shown', html('<object>release fee</object>')],
    ['a frame', html('<iframe>release <b>fee</b></iframe>')],
    ['a drawing', html('<svg><text>release fee</text></svg>')],
    ['a comment that some readers show', html('<!--[if mso]><p>release fee</p><![endif]-->')],
    ['words for a picture', html('<img src=x alt="release fee">')],
    ['a head that never closes', html('<head><style>p{}</style><p>release fee</p>')],
    ['a head in the body', html('<body><p>x</p><head>release fee</head>')],
    ['a paragraph after one that is hidden and never closes', html('<p style="display:none">x<p>release fee')],
    ['no boundary at all', typed('multipart/mixed', 'release fee')],
    ['a boundary that never comes', typed('multipart/mixed; boundary=q', 'release fee\r\n--z\r\n')],
    [
      'a boundary that never comes, all of it encoded',
      `${HEAD}Content-Type: multipart/mixed; boundary=q\r\nContent-Transfer-Encoding: `
      + `base64\r\n\r\n${base64('--q\r\nContent-Transfer-Encoding: base64\r\n\r\ncmVsZWFzZSBmZWU=\r\n--q--')}`,
    ],
    [
      'a boundary of 300 characters',
      typed(
        `multipart/mixed; boundary=${'b'.repeat(300)}`,
        `--${'b'.repeat(300)}\r\nContent-Transfer-Encoding: base64\r\n\r\ncmVsZWFzZSBmZWU=\r\n--${'b'.repeat(300)}--`,
      ),
    ],
    [
      'two boundaries, the second of which is used',
      typed(
        'multipart/mixed; boundary=one; boundary=two',
        '--two\r\nContent-Transfer-Encoding: base64\r\n\r\ncmVsZWFzZSBmZWU=\r\n--two--',
      ),
    ],
    [
      'parts after the closing line',
      typed(
        'multipart/mixed; boundary=b',
        '--b\r\n\r\nx\r\n--b--\r\n--b\r\nContent-Transfer-Encoding: base64\r\n\r\ncmVsZWFzZSBmZWU=\r\n--b--',
      ),
    ],
    ['text before the first part', typed('multipart/mixed; boundary=b', 'release fee\r\n--b\r\n\r\nx\r\n--b--')],
    ['text after the last part', typed('multipart/mixed; boundary=b', '--b\r\n\r\nx\r\n--b--\r\nrelease fee')],
    ['the type “text”', typed('text', 'release fee')],
    ['an empty type', typed('', 'release fee')],
    ['a type without its semicolon', typed('text/plain charset=x', 'release fee')],
    ['a text type that nobody knows', typed('text/x-unheard-of', 'release fee')],
    ['a type that is no type', typed('a b c', 'release fee')],
    [
      'two types, of which a reader takes the second',
      `${HEAD}Content-Type: text/plain\r\nContent-Type: text/html\r\n\r\nre<b>lease</b> fee`,
    ],
    ['no blank line after the header', `${HEAD}the release fee is due\r\nat once\r\n`],
    ['a line of blanks that ends the header for some', `${HEAD} \r\nrelease: release fee\r\nTo: b@c.test\r\n\r\nx`],
    [
      'junk among the header lines',
      `From: a@x.test\r\nthis release fee is no field\r\nContent-Type: text/html\r\n\r\nx`,
    ],
    ['lines that end in CR alone', plain('release fee').replaceAll('\r\n', '\r')],
    [
      'padding in the middle of base64',
      `${HEAD}Content-Transfer-Encoding: base64\r\n\r\n${base64('x')}\r\n${base64(' release fee')}`,
    ],
    ['what says it were base64 and is not', `${HEAD}Content-Transfer-Encoding: base64\r\n\r\nthe release fee, please!`],
    ['an encoding that nobody knows', `${HEAD}Content-Transfer-Encoding: x-unheard-of\r\n\r\nrelease fee`],
    ['an inline message', mixed(`Content-Type: message/rfc822\r\n\r\n${inner}`)],
    [
      'an inline message in base64',
      mixed(`Content-Type: message/rfc822\r\nContent-Transfer-Encoding: base64\r\n\r\n${base64(inner)}`),
    ],
    [
      'the alternative for readers of plain text',
      typed(
        'multipart/alternative; boundary=b',
        '--b\r\n\r\nWe write to you about your newsletter and its release fee today\r\n--b\r\nContent-Type: text/html\r\n\r\n<p>We write '
        + 'to you about your newsletter today, and thank you for the release of your fee</p>\r\n--b--',
      ),
    ],
    [
      'plain text beside HTML',
      mixed('Content-Type: text/html\r\n\r\n<p>x</p>', 'Content-Type: text/plain\r\n\r\nrelease fee'),
    ],
    ['flowed lines', plain('the release \r\nfee is due', '; format=flowed')],
    ['a quotation over two lines', plain('> the release\r\n> fee is due')],
  ])('%s', async (_, message) => {
    expect(await lane(message)).toBe('spam')
  })
})

describe('nobody buys protection with words that are not shown', () => {
  const keep = policy({
    rules: [
      {
        id: 'k',
        name: 'k',
        owner: 'organisation',
        state: 'enabled',
        when: { phrases: ['tide table'] },
        except: [],
        claims: [{ protect: ['spam', 'quarantine', 'delete', 'refuse'] }],
      },
      {
        id: 'r',
        name: 'r',
        owner: 'organisation',
        state: 'enabled',
        when: { phrases: ['release fee'] },
        except: [],
        claims: [{ stop: { to: 'spam' } }],
      },
    ],
  })
  it.each([
    '<object>tide table</object>',
    '<svg><text>tide table</text></svg>',
    '<title>tide table</title>',
    '<p style="visibility:hidden">tide table</p>',
    '<p style="position:absolute;left:-9999px">tide table</p>',
    '<p style="font-size:.4px">tide table</p>',
    '<p style="color:#fdfdfd">tide table</p>',
    '<font color=ffffff>tide table</font>',
    '<p style="d\\69splay:none">tide table</p>',
    '<p style="opacity:0.01">tide table</p>',
    '<p style="text-indent:-900px">tide table</p>',
    '<p style="transform:scale(0)">tide table</p>',
    '<p style="clip-path:inset(100%);position:absolute">tide table</p>',
    '<style>.a .b{display:none}</style><div class=a><i class=b>tide table</i></div>',
    '<style>[data-x="1"]{display:none}</style><p data-x=1>tide table</p>',
    '<style>p:first-child{display:none}</style><p>tide table</p>',
    '<style>p{display:none!important}</style><p style="display:block">tide table</p>',
    '<div style="max-height:0;overflow:hidden">tide table</div>',
    '<span style="display:none"><b></span>tide table</b></span>x',
    '<img alt="tide table">',
    '<body bgcolor="#123456" text=123457>tide table<p style="color:white">',
    '<p style="background-image:linear-gradient(#fff,#fefefe);color:white">tide table</p>',
    `${'<div>'.repeat(10_001)}<p hidden>tide table</p>${'</div>'.repeat(10_001)}`,
  ])('%s', async (body) => {
    expect(await lane(html(`${body}<p style="color:red">release fee</p>`), keep)).toBe('spam')
  })
  it('and where they are shown, protection counts', async () => {
    for (const body of [
      '<p>tide table</p>',
      '<noscript>tide table</noscript>',
      '<div style="visibility:hidden"><b style="visibility:visible">tide table</b></div>',
      '<div style="font-size:0"><b style="font-size:14px">tide table</b></div>',
      '<table><td bgcolor=navy><font color=white>tide table</font></table>',
      '<div style="background:url(x.png) white;color:white">tide table</div>',
      '<body bgcolor="#000" text=fff link=yellow>tide table</body>',
      '<div style="background:rebeccapurple;color:white">tide table</div>',
      '<style>a:hover{display:none}</style><a>tide table</a>',
      '<p style="height:0">tide table</p>',
      '<p style="color:#ff0000;background:#00a000">tide table</p>',
      '<style>@media print{p{display:none}}</style><p>tide table</p>',
      '<p hidden style="display:block">tide table</p>',
    ]) {
      expect([body, await lane(html(`${body}<p>release fee</p>`), keep)]).toEqual([body, 'inbox'])
    }
  })
})

describe('own and quoted: a rule on own words would be walked round, or stop an answer for what it quotes', () => {
  const split = async (body: string, more = '') =>
    (await parse(plain(body, more))).segments.slice(1).map(s => [s.place, s.text.trim()])
  it.each<[string, string, [string, string][]]>([
    [
      'a signed message',
      '-----BEGIN PGP SIGNED MESSAGE-----\r\nHash: SHA256\r\n\r\nwords',
      [['own', '-----BEGIN PGP SIGNED MESSAGE-----\nHash: SHA256\n\nwords']],
    ],
    ['a line of dashes with a word', '---- News ----\r\nNote: words', [['own', '---- News ----\nNote: words']]],
    ['one header line is nobody’s', 'Subject: words\r\nmore', [['own', 'Subject: words\nmore']]],
    [
      'indented marks',
      'own\r\n > old',
      [
        ['own', 'own'],
        ['quoted', 'old'],
      ],
    ],
    ['deeper marks, with spaces', '> > old\r\n>> older', [['quoted', 'old\nolder']]],
    [
      'an announcement over two lines',
      'Yes.\r\n\r\nOn Tue, 3 Nov 2026 at 10:00, Marit Oduya\r\n<marit@x.test> wrote:\r\n> old',
      [
        ['own', 'Yes.'],
        ['quoted', 'On Tue, 3 Nov 2026 at 10:00, Marit Oduya\n<marit@x.test> wrote:\nold'],
      ],
    ],
    [
      'a sentence that ends in a colon is no announcement',
      'You owe a fee:\r\n> old',
      [
        ['own', 'You owe a fee:'],
        ['quoted', 'old'],
      ],
    ],
    [
      'a forwarded message without a rule above',
      'see\r\n\r\nFrom: z@y.test\r\nSent: Monday\r\nTo: me\r\n\r\nold',
      [
        ['own', 'see'],
        ['quoted', 'From: z@y.test\nSent: Monday\nTo: me\n\nold'],
      ],
    ],
    [
      'the same in another language',
      'siehe\r\n\r\n*Von:* z\r\n*Betreff:* q\r\n\r\nalt',
      [
        ['own', 'siehe'],
        ['quoted', '*Von:* z\n*Betreff:* q\n\nalt'],
      ],
    ],
    ['the mark that mbox puts before From', '>From here on', [['own', 'From here on']]],
  ])('%s', async (_, body, segments) => expect(await split(body)).toEqual(segments))
  it('flowed text by its depth (RFC 3676 4.5, its own example of nested quoting, from memory)', async () => {
    expect(
      await split(
        '>> first \r\n>> level \r\n> second \r\n> level\r\n> -- \r\n> sig\r\nown \r\nwords\r\n stuffed',
        '; format=flowed',
      ),
    ).toEqual([
      ['quoted', 'first level \nsecond level\n-- \nsig'],
      ['own', 'own words\nstuffed'],
    ])
    expect(await split('one \r\nword', '; format=flowed; delsp=yes')).toEqual([['own', 'oneword']])
  })
  it('a block quote that indents is own, one that is announced or cited is quoted', async () => {
    const c = await parse(
      html(
        '<blockquote>indented</blockquote><p>On 3 Nov 2026, Ines wrote:<br></p><blockquote>old</blockquote><p>new</p><blockquote '
        + 'type=cite>cited</blockquote>',
      ),
    )
    expect([at(c, 'own'), at(c, 'quoted')]).toEqual(['indented|new', 'On 3 Nov 2026, Ines wrote:|old|cited'])
  })
})

describe('attachments: what lies in them would not be seen by any rule', () => {
  const program = policy({
    rules: [
      {
        id: 'p',
        name: 'p',
        owner: 'organisation',
        state: 'enabled',
        when: { attachment: { kind: 'program' } },
        except: [],
        claims: [{ stop: { to: 'spam' } }],
      },
    ],
  })
  it('a program that is declared inline, or lies in an archive or an attached message, is one', async () => {
    const { zipSync } = await import('fflate')
    const zip = base64(Buffer.from(zipSync({ 'folder/pay.exe': new Uint8Array([1]) })).toString('latin1'))
    expect(
      await lane(
        mixed('Content-Type: application/octet-stream\r\nContent-Disposition: inline; filename="pay.exe"\r\n\r\nMZ'),
        program,
      ),
    ).toBe('spam')
    expect(
      await lane(
        mixed(`Content-Type: application/zip; name=a.zip\r\nContent-Transfer-Encoding: base64\r\n\r\n${zip}`),
        program,
      ),
    ).toBe('spam')
    expect(
      await lane(
        mixed(
          'Content-Type: message/rfc822\r\nContent-Disposition: attachment\r\n\r\nSubject: i\r\nContent-Type: application/octet-stream; '
          + 'name=pay.exe\r\n\r\nMZ',
        ),
        program,
      ),
    ).toBe('spam')
    expect(await lane(mixed('Content-Type: text/plain; name=notes.txt\r\n\r\nx'), program)).toBe('inbox')
  })
  it('an attached message is attachment text, an inline one is quoted, and its attachments are attachments', async () => {
    const inner =
      'From: q@y.test\r\nSubject: inner\r\nContent-Type: multipart/mixed; boundary=i\r\n\r\n--i\r\n\r\nwords\r\n--i\r\nContent-Type: '
      + 'application/x-y; name=z.bin\r\n\r\n12345\r\n--i--\r\n'
    const attached = await parse(
      mixed(`Content-Type: message/rfc822\r\nContent-Disposition: attachment\r\n\r\n${inner}`),
    )
    expect([at(attached, 'own'), at(attached, 'quoted'), attached.attachments.map(a => [a.name, a.text])]).toEqual([
      'hello',
      '',
      [
        ['inner', 'From: q@y.test\nSubject: inner\nwords'],
        ['z.bin', undefined],
      ],
    ])
    const inline = await parse(mixed(`Content-Type: message/rfc822\r\n\r\n${inner}`))
    expect([at(inline, 'own'), at(inline, 'quoted')]).toEqual(['hello', 'From: q@y.test\nSubject: inner|words'])
  })
  it('size and hash leave out the line break that belongs to the boundary (RFC 2046 5.1.1)', async () => {
    const { createHash } = await import('node:crypto')
    const [a] = (await parse(mixed('Content-Type: application/x-y; name=five\r\n\r\n12345'))).attachments
    expect([a!.size, a!.sha256]).toEqual([5, createHash('sha256').update('12345').digest('hex')])
  })
  it('what cannot be looked into is a defect by its name', async () => {
    const { zipSync, strToU8 } = await import('fflate')
    const defects = async (name: string, type: string, content: Uint8Array | string) =>
      codes(
        await parse(
          mixed(
            `Content-Type: ${type}; name="${name}"\r\nContent-Transfer-Encoding: `
            + `base64\r\n\r\n${typeof content === 'string' ? base64(content) : Buffer.from(content).toString('base64')}`,
          ),
        ),
      )
    const locked = zipSync({ 'a.txt': strToU8('x') })
    // APPNOTE 4.4.4, bit 0 of the general purpose flags, in the central directory: 8 bytes after its signature.
    locked[Buffer.from(locked).indexOf('PK\x01\x02', 'latin1') + 8]! |= 1
    expect(await defects('a.zip', 'application/zip', locked)).toContain('locked archive')
    expect(await defects('winmail.dat', 'application/ms-tnef', 'x')).toEqual(['winmail.dat'])
    expect(await defects('smime.p7m', 'application/pkcs7-mime; smime-type=enveloped-data', 'x')).toEqual([
      'opaque S/MIME',
    ])
    expect(
      codes(
        await parse(
          typed('multipart/encrypted; boundary=b; protocol="application/pgp-encrypted"', '--b\r\n\r\nx\r\n--b--'),
        ),
      ),
    ).toContain('encrypted message')
    expect(await defects('a.txt', 'text/plain', 'x'.repeat(300_000))).not.toContain('attachment not readable')
    expect(await defects('b.txt', 'application/octet-stream', 'word '.repeat(60_000))).toEqual([
      'attachment read in part',
    ])
    const sheet = zipSync({
      'xl/worksheets/sheet1.xml': strToU8('<row><c t="inlineStr"><is><t>release fee</t></is></c><c><v>7</v></c></row>'),
    })
    const office = 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet'
    const [read] = (
      await parse(
        mixed(
          `Content-Type: ${office}; name=a.xlsx\r\nContent-Transfer-Encoding: base64\r\n\r\n${Buffer.from(sheet).toString('base64')}`,
        ),
      )
    ).attachments
    expect(read!.text).toBe('release fee')
    const large = zipSync({
      'word/document.xml': strToU8('<w:t>x</w:t>'),
      'word/footnotes.xml': strToU8(' '.repeat(9_000_000)),
    })
    expect(
      await defects('a.docx', 'application/vnd.openxmlformats-officedocument.wordprocessingml.document', large),
    ).toEqual(['attachment read in part'])
  })
})

describe('the sender: a block list would be passed by a From that readers show all the same', () => {
  const blocking = policy({
    lists: [
      {
        id: 'l',
        name: 'l',
        owner: 'organisation',
        usualSide: 'block',
        enabled: true,
        entries: [{ id: 'e', kind: 'address', value: 'x@blocked.example' }],
      },
    ],
    assignments: [{ id: 'b', list: 'l', owner: 'organisation', side: 'block', state: 'enabled', stop: { to: 'spam' } }],
  })
  it.each([
    'Foo <bar> <x@blocked.example>',
    '<a> <x@blocked.example>',
    'b@c.example x@blocked.example',
    'x@blocked.example>',
    'x@blocked.example.',
    'x@blocked.example..',
    '<\'x@blocked.example\'>',
    '"unclosed <x@blocked.example>',
    'a@b.test <x@blocked.example',
    'Dr. x@blocked.example',
    '<x@blocked.example',
    '(unclosed x@blocked.example',
    'a b c <<x@blocked.example>>',
    'mailto:x@blocked.example',
    'x@blocked.example@c.test',
    'Foo <> x@blocked.example',
    'x@blocked.example, b@c.test',
    '=?utf-8?q?Name?= <x@BLOCKED.example>',
    '[x@blocked.example]',
  ])('%s', async (from) => {
    const message = plain('x').replace('From: a@x.test', `From: ${from}`)
    expect(await lane(message, blocking)).toBe('spam')
    const content = await parse(message)
    if (!/utf-8/.test(from))
      expect(codes(content).some(c => c === 'unreadable From' || c === 'several mailboxes in From')).toBe(
        !from.startsWith('mailto'),
      )
  })
  it('what is written as the standard says has no defect', async () => {
    for (const from of [
      '"a@b.test" <x@y.test>',
      'x@y.test (A Name)',
      'A B <x@y.test>',
      '"very.(),:;<>[]@\\"quoted"@example.com',
      'G: x@y.test;',
    ])
      expect([from, codes(await parse(plain('x').replace('a@x.test', from)))]).toEqual([from, []])
  })
  it('a doubtful From never counts as verified', async () => {
    const { hasPlainFrom } = await import('#core/message')
    expect(hasPlainFrom(await parse(plain('x')))).toBe(true)
    for (const from of ['<a> <x@y.test>', 'x@y.test.', 'x@y.test, z@y.test'])
      expect(hasPlainFrom(await parse(plain('x').replace('a@x.test', from)))).toBe(false)
  })
})

describe('characters (WHATWG Encoding Standard): the phrase that a reader sees would be other bytes', () => {
  it.each([['iso-8859-1'], ['windows-1252'], ['latin1'], ['us-ascii'], ['']])('“%s” is windows-1252', async (charset) => {
    const c = await parse(typed(`text/plain${charset && `; charset=${charset}`}`, 'it\x92s 5 \x80'))
    expect([at(c, 'own'), codes(c)]).toEqual(['it’s 5 €', []])
    const word = charset || 'iso-8859-1'
    expect((await parse(`Subject: =?${word}?q?it=92s_5_=80?=\r\n\r\nx`)).subject).toBe('it’s 5 €')
  })
  it('a raw subject is in the character set that the body declares', async () => {
    expect(
      await parse(
        'Subject: \xCF\xF0\xE8\xE2\xE5\xF2\r\nFrom: \xC8\xE2\xE0\xED <i@x.test>\r\nContent-Type: text/plain; charset=windows-1251\r\n\r\nx',
      ),
    ).toMatchObject({ subject: 'Привет', from: [{ name: 'Иван' }] })
    expect((await parse('Subject: Gr\xF6\xDFe\r\n\r\nx')).subject).toBe('Größe')
    expect(
      (
        await parse(
          'Subject: \x83\x65\x83\x58\x83\x67\r\nContent-Type: multipart/mixed; boundary=b\r\n\r\n--b\r\nContent-Type: text/plain; '
          + 'charset=shift_jis\r\n\r\nx\r\n--b--',
        )
      ).subject,
    ).toBe('テスト')
  })
  it('says what it does not know and what ends too early', async () => {
    expect(codes(await parse(typed('text/plain; charset=x-unheard-of', 'x')))).toEqual(['unknown character set'])
    expect(codes(await parse(`${HEAD}Content-Transfer-Encoding: base64\r\n\r\ncmVsZWFzZSBmZW`))).toEqual([
      'body cut short',
    ])
    expect(codes(await parse(`${HEAD}Content-Transfer-Encoding: quoted-printable\r\n\r\ncaf=C3=A`))).toEqual([
      'body cut short',
    ])
    expect(
      codes(await parse(`${HEAD}Content-Transfer-Encoding: quoted-printable\r\n\r\nas some programs end =\r\n`)),
    ).toEqual([])
  })
})

describe('each doubt about structure is a defect: nothing else would tell that a message is odd', () => {
  it.each<[string, string, string[]]>([
    ['no boundary', typed('multipart/mixed', 'x'), ['boundary missing']],
    ['never seen', typed('multipart/mixed; boundary=q', 'x'), ['boundary never seen']],
    ['never closed', typed('multipart/mixed; boundary=q', '--q\r\n\r\nx'), ['boundary never closes']],
    [
      'after the end',
      typed('multipart/mixed; boundary=q', '--q\r\n\r\nx\r\n--q--\r\n--q\r\n\r\ny\r\n--q--'),
      ['parts after the end'],
    ],
    ['no sense', typed('text', 'x'), ['unreadable Content-Type']],
    ['twice', `${HEAD}Content-Type: text/plain\r\nContent-Type: text/html\r\n\r\nx`, ['two Content-Type fields']],
    ['unknown encoding', `${HEAD}Content-Transfer-Encoding: x-z\r\n\r\nx`, ['unknown transfer encoding']],
    ['no blank line', `${HEAD}words\r\n`, ['line without a field name']],
    ['no zone', plain('x').replace(' +0000', ''), ['Date without a zone']],
    ['nothing wrong', plain('x'), []],
  ])('%s', async (_, message, expected) => expect(codes(await parse(message))).toEqual(expected))
})

describe('the bytes alone decide: two hosts would decide one message differently', () => {
  it('facts are the same in every time zone and language', async () => {
    const { execFileSync } = await import('node:child_process')
    const script =
      'import { parseContent } from "./core/index.ts"; const text = "Date: 24 Nov 2026 09:00\\r\\nContent-Type: '
      + 'message/rfc822\\r\\n\\r\\nDate: Mon, 1 Jun 2026 10:00\\r\\nSubject: I\\u0307\\r\\n\\r\\nx"; console.log(JSON.stringify(await '
      + 'parseContent(new TextEncoder().encode(text))))'
    const said = (env: Record<string, string>) =>
      execFileSync(process.execPath, ['--import', 'tsx', '--input-type=module', '-e', script], {
        encoding: 'utf8',
        env: { ...process.env, ...env },
      })
    const here = said({ TZ: 'UTC', LANG: 'C', LC_ALL: 'C' })
    expect(JSON.parse(here).date).toBe('2026-11-24T09:00:00.000Z')
    expect(said({ TZ: 'Pacific/Auckland', LANG: 'tr_TR.UTF-8', LC_ALL: 'tr_TR.UTF-8' })).toBe(here)
  })
})
