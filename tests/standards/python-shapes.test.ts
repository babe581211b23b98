// Python's email package and html.parser (Debian's python3) as the other reader: the structure of messages of every shape that
// was once read wrongly, and the words of generated HTML. Where the two differ, the standard that decides is named.
import { execFileSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import { parseContent } from '#core'
import { fileName } from '../../core/message/parameters'
import { scanStructure, type Part } from '../../core/message/structure'
import { transferDecoded } from '../../core/message/transfer'
import { Random } from '../../demo'

interface Facts {
  defects: string[]
  leaves: [type: string, name: string, sha256: string][]
  words: string[][]
}

const python = (messages: Uint8Array[]): Facts[] =>
  execFileSync('python3', [new URL('data/shape_facts.py', import.meta.url).pathname], {
    input: messages.map(m => Buffer.from(m).toString('base64')).join('\n'),
    maxBuffer: 1e9,
    encoding: 'utf8',
  })
    .trim()
    .split('\n')
    .map(l => JSON.parse(l))

const latin1 = (text: string) => Uint8Array.from(Buffer.from(text, 'latin1'))
const sha256 = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex')
const leavesOf = (part: Part): Part[] => (part.children.length ? part.children.flatMap(leavesOf) : [part])
const leaves = (bytes: Uint8Array): Facts['leaves'] =>
  leavesOf(scanStructure(bytes).root).map((part) => {
    const type = part.type.value.startsWith('multipart/') ? 'text/plain' : part.type.value
    return [
      type,
      fileName(part.disposition, part.type),
      sha256(transferDecoded(part.bytes.subarray(part.bodyStart, part.bodyEnd), part.encoding).bytes),
    ]
  })

const WORDS = 'tide berth pilot crane ferry quay anchor chain release fee mooring harbour customs draft'.split(' ')
const some = (random: Random, most = 8) =>
  Array.from({ length: random.between(1, most) }, () => random.pick(WORDS)).join(' ')

/** A part with a body that is encoded in one of the ways there are. */
function leaf(random: Random): string {
  const text = `${some(random)}\r\n${some(random)}`
  const disposition = random.pick([
    '',
    'Content-Disposition: inline\r\n',
    `Content-Disposition: attachment; filename="${random.pick(WORDS)}.txt"\r\n`,
    'Content-Disposition: attachment;\r\n filename*0="long "; filename*1=name.txt\r\n',
    'Content-Disposition: attachment; filename*=utf-8\'\'Gr%C3%B6%C3%9Fe.txt\r\n',
  ])
  const type = random.pick([
    '',
    'Content-Type: text/plain; charset=utf-8\r\n',
    'Content-Type: text/csv\r\n',
    'Content-Type: application/octet-stream; name=x.bin\r\n',
  ])
  switch (random.between(0, 2)) {
    case 0:
      return `${type}${disposition}Content-Transfer-Encoding: base64\r\n\r\n${Buffer.from(text).toString('base64')}`
    case 1:
      return `${type}${disposition}Content-Transfer-Encoding: `
        + `quoted-printable\r\n\r\n${text.replaceAll('e', '=65').replace('\r\n', '=\r\n')}`
    default:
      return `${type}${disposition}\r\n${text}`
  }
}

function tree(random: Random, depth: number, path: string): string {
  if (depth === 0 || random.chance(0.4)) return leaf(random)
  if (random.chance(0.2))
    return `Content-Type: message/rfc822\r\n\r\nFrom: a@x.test\r\nSubject: ${some(random)}\r\n${tree(random, depth - 1, `${path}m`)}`
  const boundary = `=_${path}${random.pick(['', ' .', '\'()+_,-./:=?'])}${path.length}x`
  const parts = Array.from(
    { length: random.between(1, 3) },
    (_, i) => `--${boundary}${random.pick(['', ' \t'])}\r\n${tree(random, depth - 1, `${path}${i}`)}\r\n`,
  )
  return `Content-Type: multipart/${random.pick(['mixed', 'alternative', 'related', 'x-unheard-of'])}; `
    + `boundary="${boundary}"\r\n\r\n${random.pick(['', 'preamble\r\n'])}${parts.join('')}`
    + `--${boundary}--\r\n${random.pick(['', 'epilogue\r\n'])}`
}

describe('the structure of generated messages: a part would be taken for another’s text', () => {
  it('the same leaves, with the same bytes', () => {
    const random = new Random(41)
    const messages = Array.from({ length: 1500 }, () =>
      latin1(`From: a@x.test\r\nMIME-Version: 1.0\r\n${tree(random, 4, '')}`),
    )
    const theirs = python(messages)
    for (const [i, bytes] of messages.entries()) expect([i, leaves(bytes)]).toEqual([i, theirs[i]!.leaves])
  })
})

const HEAD = 'From: a@x.test\r\nMIME-Version: 1.0\r\n'
const typed = (type: string, body: string) => `${HEAD}Content-Type: ${type}\r\n\r\n${body}`

describe('messages of broken shapes: what one reader shows would be hidden from the rules', () => {
  const same: [string, string][] = [
    ['no boundary', typed('multipart/mixed', 'the release fee')],
    ['a boundary that never comes', typed('multipart/mixed; boundary=q', 'the release fee\r\n--z\r\n\r\nx\r\n')],
    [
      'a boundary that never closes',
      typed('multipart/mixed; boundary=q', '--q\r\n\r\nthe release fee\r\n--q\r\n\r\nmore'),
    ],
    ['the type “text”', typed('text', 'the release fee')],
    ['an empty type', typed('', 'the release fee')],
    ['a text type that nobody knows', typed('text/x-unheard-of', 'the release fee')],
    ['no blank line after the header', `${HEAD}the release fee is due\r\nat once\r\n`],
    ['a part without header lines', typed('multipart/mixed; boundary=q', '--q\r\n\r\nthe release fee\r\n--q--\r\n')],
    ['an empty part', typed('multipart/mixed; boundary=q', '--q\r\n--q--\r\n')],
    ['nothing but a header', HEAD],
    [
      'characters beyond the alphabet of base64 (RFC 2045 6.8)',
      `${HEAD}Content-Transfer-Encoding: base64\r\n\r\ncmVs*ZWFz`,
    ],
    [
      'an inner boundary that is the outer one’s beginning',
      typed(
        'multipart/mixed; boundary=q',
        '--q\r\nContent-Type: multipart/mixed; boundary=qq\r\n\r\n--qq\r\n\r\nx\r\n--qq--\r\n--q--\r\n',
      ),
    ],
    [
      'the outer boundary ends the inner part',
      typed(
        'multipart/mixed; boundary=q',
        '--q\r\nContent-Type: multipart/mixed; boundary=r\r\n\r\n--r\r\n\r\nx\r\n--q\r\n\r\ny\r\n--q--\r\n',
      ),
    ],
  ]
  it.each(same)('%s', (_, message) => {
    const bytes = latin1(message)
    // Python goes on calling a multipart that has no parts what it called itself; its body is text all the same (RFC 2046 5.1).
    expect(leaves(bytes)).toEqual(
      python([bytes])[0]!.leaves.map(([type, ...rest]) => [
        type.startsWith('multipart/') ? 'text/plain' : type,
        ...rest,
      ]),
    )
  })

  /** Where the two differ, and what decides. */
  const different: [string, string, string][] = [
    [
      'a type without its semicolon',
      typed('text/html charset=utf-8', '<p>x'),
      'RFC 2045 5.2 lets either reading stand; HTML shows more words than its source',
    ],
    [
      'fields after a line that is none',
      `From: a@x.test\r\njunk\r\nContent-Type: text/html\r\n\r\n<p>x`,
      'readers differ; both readings are kept, the other as hidden text',
    ],
    [
      'parts after the closing line',
      typed('multipart/mixed; boundary=q', '--q\r\n\r\nx\r\n--q--\r\n--q\r\n\r\ny\r\n--q--'),
      'RFC 2046 5.1.1 ignores what follows; some readers go on, so it is hidden text',
    ],
  ]
  it.each(different.map(([name, message, why]) => [name, why, message]))('%s differs: %s', (_, __, message) => {
    const bytes = latin1(message)
    expect(leaves(bytes)).not.toEqual(python([bytes])[0]!.leaves)
  })
})

/** HTML in which everything is shown: elements that are closed or not, entities, white space of several kinds. */
function page(random: Random): string {
  let out = random.pick([
    '',
    '<!doctype html><html><head><title></title><style>p{margin:0}</style></head><body>',
    '<head>',
    '<body>',
  ])
  for (let n = random.between(3, 30); n > 0; n--) {
    const text = some(random, 4).replaceAll(' ', random.pick([' ', '\r\n', '&nbsp;', '&#160;', '&emsp;', '\t']))
    const name = random.pick(['p', 'div', 'b', 'span', 'section', 'li', 'h1', 'noscript', 'a', 'font', 'em', 'center'])
    out += random.pick([
      `<${name}>${text}</${name}> `,
      `<${name}>${text} `,
      `${text} `,
      `<!-- ${some(random)} -->`,
      `<${name} title="" class='x y'>${text}`,
      `<br>${text}`,
      `<script>${some(random)}</script>`,
      `</${name}>`,
      `&lt;${text}&gt; `,
    ])
  }
  return out
}

describe('the words of generated HTML: two words would be read as one, or none', () => {
  it('the same words, however the markup is broken', async () => {
    const random = new Random(42)
    const messages = Array.from({ length: 800 }, () => latin1(typed('text/html; charset=utf-8', page(random))))
    const theirs = python(messages)
    for (const [i, bytes] of messages.entries()) {
      const { segments } = await parseContent(bytes)
      const ours = [
        ...new Set(
          segments
            .slice(1)
            .map(s => s.text)
            .join('\n')
            .split(/\s+/)
            .filter(Boolean),
        ),
      ].sort()
      expect([i, ours, Buffer.from(messages[i]!).toString()]).toEqual([
        i,
        theirs[i]!.words[0],
        Buffer.from(messages[i]!).toString(),
      ])
    }
  })
})
