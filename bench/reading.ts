import { execFileSync } from 'node:child_process'
import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import PostalMime from 'postal-mime'
import { parseContent } from '#core'
import { generate, Random } from '../demo'
import { bestOfEach, type Figures } from './measure'
import { phrases } from './policies'

/** A newsletter of some 40 kB as programs make them: tables in tables, a style at each element, a style sheet on top. */
function newsletter(random: Random): Uint8Array {
  const words = phrases(random, 300)
  const styles = Array.from(
    { length: 40 },
    (_, i) => `.c${i}{color:#${((i * 4001) % 0xffffff).toString(16).padStart(6, '0')};font-size:${12 + (i % 8)}px;padding:0 ${i}px}`,
  ).join('\n')
  let body = ''
  while (body.length < 38_000) {
    const c = random.between(0, 39)
    body += `<tr><td class="c${c}" align="left" style="font-family: Arial, sans-serif; font-size: ${12 + (c % 6)}px; line-height: 20px; `
      + `color: #333333; padding: 0 ${c}px;"><a href="https://news.example/${c}" `
      + `style="color:#12495a;text-decoration:none">${random.pick(words)}</a> ${random.pick(words)}&nbsp;${random.pick(words)} `
      + `<b>${random.pick(words)}</b></td></tr>\r\n`
  }
  const html = `<!doctype html><html><head><title>News</title><style>${styles}</style></head><body bgcolor="#ffffff"><table `
    + `width="600">${body}</table></body></html>`
  return Buffer.from(
    `From: News <news@news.example>\r\nTo: oskar@saltmere-harbour.example\r\nSubject: News\r\nDate: Tue, 24 Nov 2026 09:00:00 `
    + `+0000\r\nMessage-ID: <1@news.example>\r\nMIME-Version: 1.0\r\nContent-Type: text/html; `
    + `charset=utf-8\r\nContent-Transfer-Encoding: quoted-printable\r\n\r\n${quotedPrintable(html)}`,
  )
}

function quotedPrintable(text: string): string {
  return text
    .replaceAll('=', '=3D')
    .split('\r\n')
    .map(line => line.match(/.{1,72}/g)?.join('=\r\n') ?? '')
    .join('\r\n')
}

/** Reading with every fact that rules ask for, against the MIME package's parsing and Python's email making the same facts. */
export async function reading(figures: Figures): Promise<void> {
  const random = new Random(3)
  const mail = [...generate(new Date('2026-11-24'), 400)].map(m => m.bytes)
  const newsletters = Array.from({ length: 30 }, () => newsletter(random))
  for (const [name, messages] of [
    ['the demo’s mail', mail],
    ['generated HTML of 40 kB', newsletters],
  ] as const) {
    const ours = async () => {
      // Documents apart: what opens them is another's work.
      for (const bytes of messages) await parseContent(bytes, { extent: 'closed' })
    }
    const theirs = async () => {
      for (const bytes of messages) await PostalMime.parse(bytes)
    }
    const [read, parsed] = (await bestOfEach([ours, theirs], 12)) as [number, number]
    figures.add(`reading ${name} with all facts, to postal-mime’s parsing`, read / parsed, 'ratio', 'at most 1.5', read / parsed <= 1.5)
    figures.add(`reading ${name}, one message`, (read / messages.length) * 1000, 'µs', '', null)
    const python = pythonSeconds(messages) * 1000
    figures.add(`Python’s email on ${name}, to reading`, python / read, 'times', 'above 1', python > read)
  }
}

// The same facts, timed inside Python, so that its start is left out.
const PEER = `
import base64, email, email.policy, email.utils, hashlib, html.parser, sys, time
class Text(html.parser.HTMLParser):
    def __init__(self):
        super().__init__()
        self.out = []
    def handle_data(self, data):
        self.out.append(data)
messages = [base64.b64decode(l) for l in open(sys.argv[1])]
best = 1e9
for _ in range(3):
    start = time.perf_counter()
    for raw in messages:
        m = email.message_from_bytes(raw, policy=email.policy.default)
        [[(a.display_name, a.addr_spec) for h in m.get_all(n, []) for a in h.addresses] for n in ('from', 'to', 'cc', 'reply-to')]
        str(m['subject']), m['message-id'], [str(v) for v in m.values()]
        m['date'] and email.utils.parsedate_to_datetime(m['date'])
        hashlib.sha256(raw).hexdigest()
        for p in m.walk():
            if p.is_multipart():
                continue
            if p.get_content_maintype() == 'text':
                text = p.get_content()
                if p.get_content_subtype() == 'html':
                    reader = Text()
                    reader.feed(text)
            else:
                hashlib.sha256(p.get_payload(decode=True) or b'').hexdigest()
    best = min(best, time.perf_counter() - start)
print(best)
`

function pythonSeconds(messages: readonly Uint8Array[]): number {
  const folder = mkdtempSync(join(tmpdir(), 'bench-'))
  const file = join(folder, 'messages')
  writeFileSync(file, messages.map(m => Buffer.from(m).toString('base64')).join('\n'))
  return Number(execFileSync('python3', ['-c', PEER, file], { encoding: 'utf8' }))
}
