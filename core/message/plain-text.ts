import type { Segment } from './types'

/** A line of text without the marks before it. */
interface Line {
  text: string
  /** How many ">" stood before it (RFC 3676 4.5); the mark that mbox puts before "From " is none. */
  depth: number
}

/** How lines belong together (RFC 3676); null where each stands for itself. */
export interface Flowed {
  /** The space at the end of a flowed line is taken away with the break. */
  delSp: boolean
}

/** Where splitting stands between the pieces of one message. */
export interface QuoteState {
  /** A forwarded message has begun; what follows is part of it. */
  forwarded: boolean
}

const MAX_DEPTH = 100
/** How far before a line its marks may be indented. */
const MAX_INDENT = 8

/**
 * Splits text that a reader sees into the writer's own words and what is quoted from earlier mail. Quoted is only what is
 * marked so: lines after ">", the line that announces them, and everything from a forwarded message's header lines on.
 * In doubt words are the writer's own. Marks are taken off, so that a phrase that runs over two quoted lines is one.
 * @param next what follows the text is quoted, so that its last line may announce it
 */
export function splitQuoted(
  text: string,
  { flowed = null, state = { forwarded: false }, next = false }: { flowed?: Flowed | null, state?: QuoteState, next?: boolean } = {},
): Segment[] {
  if (!flowed && !next && !state.forwarded && !canQuote(text)) {
    const own = withLineFeeds(text)
    return own.trim() === '' ? [] : [{ place: 'own', text: own }]
  }
  const run = new Run()
  for (let at = 0; at < text.length;) {
    const end = endOfBlock(text, at)
    splitBlock(text.slice(at, end), { flowed, state, next: next && end === text.length }, run)
    at = end
  }
  return run.segments()
}

/** So many characters are taken apart at a time, and a little more up to the end of a line: lines cost more memory than text. */
const BLOCK = 256 * 1024

function endOfBlock(text: string, from: number): number {
  if (text.length - from <= BLOCK) return text.length
  const lineEnd = text.indexOf('\n', from + BLOCK)
  return lineEnd < 0 ? text.length : lineEnd + 1
}

/** Text of one place after the other. */
class Run {
  private readonly done: Segment[] = []
  private pieces: string[] = []
  private place: 'own' | 'quoted' | null = null

  add(place: 'own' | 'quoted', text: string): void {
    if (place !== this.place) this.finish()
    this.place = place
    this.pieces.push(text)
  }

  segments(): Segment[] {
    this.finish()
    return this.done
  }

  private finish(): void {
    const text = this.pieces.join('\n')
    if (this.place && text.trim() !== '') this.done.push({ place: this.place, text })
    this.pieces = []
  }
}

function splitBlock(text: string, { flowed, state, next }: { flowed: Flowed | null, state: QuoteState, next: boolean }, run: Run): void {
  const bare = text.endsWith('\n') && text.length > 1 && text.length > BLOCK ? text.slice(0, -1) : text
  const lines = flowed ? flow(bare, flowed) : splitLines(bare).map(readLine)
  const announced = announcements(lines, next)
  const headers = headerBlocks(lines)
  let from = 0
  let place: 'own' | 'quoted' | null = null
  const finish = (to: number) => {
    if (place)
      run.add(
        place,
        lines
          .slice(from, to)
          .map(l => l.text)
          .join('\n'),
      )
    from = to
  }
  for (const [i, line] of lines.entries()) {
    state.forwarded ||= headers.has(i)
    const here = state.forwarded || line.depth > 0 || announced.has(i) ? 'quoted' : 'own'
    if (here !== place) finish(i)
    place = here
  }
  finish(lines.length)
}

/** Links written out in plain text. */
export function plainLinks(text: string): { target: string, text: string }[] {
  const out: { target: string, text: string }[] = []
  for (const [target] of text.matchAll(/\bhttps?:\/\/[^\s<>"')\]]+/gi)) {
    if (out.length === 500) break
    out.push({ target, text: target })
  }
  return out
}

function withLineFeeds(text: string): string {
  return text.includes('\r') ? text.replace(/\r\n?/g, '\n') : text
}

function splitLines(text: string): string[] {
  return withLineFeeds(text).split('\n')
}

// Most texts have neither a mark nor two header lines, and need not be taken apart.
function canQuote(text: string): boolean {
  return text.includes('>') || HEADER_LINE_ANYWHERE.test(text)
}

// ">" by its depth, also with spaces between, and indented a little. ">From" is "From" as mbox escapes it (RFC 4155).
function readLine(line: string): Line {
  let at = 0
  while (at < MAX_INDENT && line[at] === ' ') at++
  if (line[at] !== '>' || line.startsWith('>From ')) return { text: line.startsWith('>From ') ? line.slice(1) : line, depth: 0 }
  let depth = 0
  for (;;) {
    if (line[at] === '>') at++
    else if (line[at] === ' ' && line[at + 1] === '>') at += 2
    else break
    depth++
  }
  return { text: line[at] === ' ' ? line.slice(at + 1) : line.slice(at), depth: Math.min(depth, MAX_DEPTH) }
}

// RFC 3676 4.1 to 4.5: depth, then the space that was stuffed in; a line that ends in a space flows on into the next of its depth.
function flow(text: string, { delSp }: Flowed): Line[] {
  const out: Line[] = []
  let open: { pieces: string[], depth: number } | null = null
  const close = () => {
    if (open) out.push({ text: open.pieces.join(''), depth: open.depth })
    open = null
  }
  for (const raw of splitLines(text)) {
    let depth = 0
    if (!raw.startsWith('>From ')) while (raw[depth] === '>') depth++
    let line = raw.startsWith('>From ') ? raw.slice(1) : raw.slice(depth)
    if (line.startsWith(' ')) line = line.slice(1)
    if (open !== null && (open as { depth: number }).depth !== depth) close()
    const isFlowed = line.endsWith(' ') && line !== '-- '
    const piece = isFlowed && delSp ? line.slice(0, -1) : line
    if (line === '-- ') close()
    open ??= { pieces: [], depth: Math.min(depth, MAX_DEPTH) }
    open.pieces.push(piece)
    if (!isFlowed) close()
  }
  close()
  return out
}

// "wrote:" and its like, in languages that mail programs are used in; in another an announcement stays the writer's own words.
const WROTE =
  /(?:wrote|writes|said|schrieb|a écrit|escribió|ha scritto|escreveu|schreef|skrev|kirjoitti|napisał\(a\)|napisał|napsal\(a\)|írta|yazdı|написал|написав|пишет|έγραψε) ?:$/iu
const BEGINS = /^(?:on|am|le|el|il|em|op|den|dne|dnia|w dniu|в|στις)\b/iu

/** True if a line announces what is quoted below it: who wrote, in a common language, with a date or an address. */
function announces(text: string): boolean {
  const line = text.trim()
  return line.length <= 300 && WROTE.test(line) && (/[\d@<]/.test(line) || BEGINS.test(line))
}

// "On 3 November 2026 at 10:00, Marit Oduya <marit@x.example> wrote:", on one line or on two, right before quoted lines.
function announcements(lines: readonly Line[], next: boolean): Set<number> {
  const found = new Set<number>()
  for (let i = 0; i < lines.length; i++) {
    const { text, depth } = lines[i]!
    if (depth > 0 || !text.trimEnd().endsWith(':') || text.length > 300) continue
    const after = nextFilled(lines, i)
    if (after === undefined ? !next : after.depth === 0) continue
    const before = i > 0 && lines[i - 1]!.depth === 0 ? lines[i - 1]!.text.trim() : ''
    if (announces(text)) found.add(i)
    else if (before.length > 0 && before.length <= 200 && BEGINS.test(before) && announces(`${before} ${text}`)) found.add(i - 1).add(i)
    else continue
    if (before && !found.has(i - 1) && BEGINS.test(before) && !BEGINS.test(text.trim()) && /\d/.test(before)) found.add(i - 1)
  }
  return found
}

/** The first filled line after `i`; only a few lines ahead, so that empty lines do not cost the square of their number. */
function nextFilled(lines: readonly Line[], i: number): Line | undefined {
  for (let j = i + 1; j < Math.min(lines.length, i + 4); j++) if (lines[j]!.text.trim() || lines[j]!.depth > 0) return lines[j]
  return i + 4 >= lines.length ? undefined : { text: '', depth: 0 }
}

// The header lines that programs put before what they forward or answer, in some languages (common practice, no source).
const NAMES = [
  'from|von|de|da|van|från|fra|od|lähettäjä|от',
  'sent|gesendet|envoyé|enviado|inviato|verzonden|skickat|sendt|wysłano',
  'date|datum|data|fecha|dato|дата',
  'to|an|à|para|a|aan|till|til|do|кому',
  'subject|betreff|objet|asunto|assunto|oggetto|onderwerp|ämne|emne|temat|тема',
  'cc|kopie',
]
const HEADER_LINE = new RegExp(`^[ \\t]{0,8}(?:\\*{0,2})(?:${NAMES.map(n => `(${n})`).join('|')})(?:\\*{0,2}) ?:`, 'iu')
const HEADER_LINE_ANYWHERE = new RegExp(HEADER_LINE.source, 'imu')
const MAX_BETWEEN = 2
/** "-----Original Message-----" and its like stand right above a block of header lines. */
const RULE = /^[ \t]{0,8}[-_=]{3,}/

// Where a block of at least two different header lines begins; a line of copies to others counts for neither.
const COPIED = NAMES.length - 1
function headerBlocks(lines: readonly Line[]): Set<number> {
  const found = new Set<number>()
  let begun = -1
  let last = -1
  let names = new Set<number>()
  for (const [i, { text, depth }] of lines.entries()) {
    const match = depth === 0 && text.length < 1000 ? HEADER_LINE.exec(text) : null
    if (!match) {
      if (text.trim() && i - last > MAX_BETWEEN) begun = -1
      continue
    }
    if (begun < 0 || i - last > MAX_BETWEEN + 1) {
      begun = i
      names = new Set()
    }
    last = i
    const name = match.slice(1).findIndex(m => m !== undefined)
    if (name !== COPIED) names.add(name)
    if (names.size < 2) continue
    const above = begun > 0 && RULE.test(lines[begun - 1]!.text) ? begun - 1 : begun
    found.add(above)
  }
  return found
}

/** True if the last lines before a block announce that it is quoted. */
export function isAnnounced(before: string, last: string): boolean {
  return announces(last) || (BEGINS.test(before.trim()) && announces(`${before.trim()} ${last}`))
}
