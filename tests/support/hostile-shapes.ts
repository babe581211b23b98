const HEAD = 'From: a@x.test\r\nDate: Tue, 24 Nov 2026 09:00:00 +0000\r\nMessage-ID: <1@x.test>\r\n'
const html = (body: string) => `${HEAD}Content-Type: text/html\r\n\r\n${body}`
const plain = (body: string) => `${HEAD}Content-Type: text/plain\r\n\r\n${body}`
const encoded = (encoding: string, body: string) =>
  `${HEAD}Content-Type: text/plain\r\nContent-Transfer-Encoding: ${encoding}\r\n\r\n${body}`
const fill = (piece: string, length: number) => piece.repeat(Math.ceil(length / piece.length)).slice(0, length)
const nested = (length: number, inner: (i: number) => string) => {
  let out = ''
  for (let i = 0; out.length < length; i++) out += inner(i)
  return out
}

/** Messages of about a length, each of a shape that has cost somebody the square of it. */
export const HOSTILE: Record<string, (length: number) => string> = {
  'a line of dashes': n => plain(`${fill('-', n)}x\r\nNote: y`),
  'a line of colons after quotation': n => plain(`${fill('wrote: ', n)}\r\n> x`),
  'empty lines': n => plain(fill('\r\n', n)),
  'short lines of a table': n => plain(fill('1,2,3\r\n', n)),
  'marks of quotation': n => plain(fill('> ', n)),
  'one line of marks of quotation': n => plain(fill('>', n)),
  'announcements without end': n => plain(fill('On 3 Nov 2026 a@b.test wrote:\r\n', n)),
  'header lines in the text': n => plain(fill('From: a\r\nx\r\n', n)),
  'addresses of pages': n => plain(fill('http://', n)),
  'flowed lines': n => `${HEAD}Content-Type: text/plain; format=flowed\r\n\r\n${fill('> a \r\n', n)}`,
  'letters spaced apart': n => plain(fill('a ', n)),
  'brackets in Content-Type': n => `${HEAD}Content-Type: text/plain${fill('(', n)}\r\n\r\nx`,
  'parameters in Content-Type': n => `${HEAD}Content-Type: text/plain${fill('; a="', n)}\r\n\r\nx`,
  'white space in From': n => `From: a${fill(' ', n)}b\r\n\r\nx`,
  'angle brackets in From': n => `From: ${fill('<', n)}\r\n\r\nx`,
  'round brackets in From': n => `From: ${fill('(', n)}\r\n\r\nx`,
  'quotation marks in From': n => `From: ${fill('"a\\', n)}\r\n\r\nx`,
  'commas in From': n => `From: ${fill(', ', n)}\r\n\r\nx`,
  'From fields': n => `${fill('From: a@b.test\r\n', n)}\r\n\r\nx`,
  'white space in To': n => `To: ${fill('\t', n)}@\r\n\r\nx`,
  'white space in Date': n => `Date: ${fill(' ', n)}x\r\n\r\nx`,
  'brackets in Received': n => `Received: from ${fill('[1', n)}\r\n\r\nx`,
  'a marked subject': n => `Subject: [${fill('spam ', n)}\r\n\r\nx`,
  'encoded words that are none': n => `Subject: ${fill('=?', n)}\r\n\r\nx`,
  'encoded words': n => `Subject: ${fill('=?utf-8?q?a?= ', n)}\r\n\r\nx`,
  'header lines without names': n => `${HEAD}${fill('x\r\n', n)}From: y@z.test\r\n\r\nx`,
  'folded lines': n => `Subject: x${fill('\r\n y', n)}\r\n\r\nx`,
  'authentication results': n => `Authentication-Results: x; ${fill('dkim=pass a.b = c ', n)}\r\n\r\nx`,
  'style elements': n => html(fill('<style>a{color:red}</style>', n)),
  'style elements that never close': n => html(fill('<style>', n)),
  'rules for each element': n =>
    html(`<style>${fill('.a .b{display:none}', n / 2)}</style>${fill('<i class="a b">', n / 2)}`),
  'selectors': n => html(`<style>${fill('a,', n)}{display:none}</style>`),
  'rules that never close': n => html(`<style>${fill('a{', n)}</style>x`),
  'brackets in a style': n => html(`<p style="width:${fill('(', n)}">x`),
  'bold': n => html(fill('<b>', n)),
  'divisions': n => html(fill('<div>', n)),
  'end tags': n => html(`${fill('<b>', n / 2)}${fill('</u>', n / 2)}`),
  'paragraphs in cells': n => html(fill('<table><td><p>', n)),
  'list items': n => html(fill('<li><p>', n)),
  'block quotes': n => html(fill('wrote:<blockquote>', n)),
  'frames in frames': n => html(fill('<iframe>', n)),
  'comments': n => html(fill('<!--[if x]>', n)),
  'entities': n => html(fill('&amp', n)),
  'an attribute': n => html(`<p ${fill('a ', n)}>x`),
  'angle brackets': n => html(fill('<', n)),
  'links': n => html(fill('<a href=x>', n)),
  'blanks in quoted-printable': n => encoded('quoted-printable', `${fill(' ', n)}x`),
  'equals in quoted-printable': n => encoded('quoted-printable', fill('= ', n)),
  'padding in base64': n => encoded('base64', fill('A=', n)),
  'delimiters': n => `${HEAD}Content-Type: multipart/mixed; boundary=b\r\n\r\n${fill('--b\r\n', n)}`,
  'closing delimiters': n =>
    `${HEAD}Content-Type: multipart/mixed; boundary=b\r\n\r\n--b\r\n\r\nx\r\n${fill('--b--\r\n', n)}`,
  'nested parts': n =>
    `${HEAD}${nested(n, i => `Content-Type: multipart/mixed; boundary=b${i}\r\n\r\n--b${i}\r\n`)}\r\nx`,
  'messages in messages': n => `${HEAD}${fill('Content-Type: message/rfc822\r\n\r\n', n)}`,
  'alternatives in alternatives': n =>
    `${HEAD}${nested(n, i => `Content-Type: multipart/alternative; boundary=b${i}\r\n\r\n--b${i}\r\n\r\nx\r\n--b${i}\r\n`)}`,
  'an alternative that says something else': n =>
    `${HEAD}Content-Type: multipart/alternative; `
    + `boundary=b\r\n\r\n--b\r\n\r\n${fill('other words here\r\n', n / 2)}\r\n--b\r\nContent-Type: `
    + `text/html\r\n\r\n${fill('<p>these are words', n / 2)}\r\n--b--\r\n`,
}
