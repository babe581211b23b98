import { makeAddress, type Address } from '../address'
import { decodeWords } from './encoded-words'
import type { RawField } from './structure'

const MAX_ADDRESSES = 1000

/** What the fields of one name say. */
export interface Mailboxes {
  /** Every address that stands there, the one that a reader is shown first. */
  addresses: Address[]
  /** Something there is no mailbox by RFC 5322, so that another reader may see another address. */
  doubtful: boolean
}

/**
 * The mailboxes of every field of that name, groups opened (RFC 5322 3.4), obsolete spellings understood (4.4). Where the
 * text is no list of mailboxes, every address in it counts: different readings of one From by us and by the reader's
 * program are what forgers live on.
 */
export function readMailboxes(fields: readonly RawField[], name: string): Mailboxes {
  const out: Mailboxes = { addresses: [], doubtful: false }
  for (const field of fields) if (field.name.toLowerCase() === name && out.addresses.length < MAX_ADDRESSES) readList(field.value, out)
  return out
}

/** The addresses alone. */
export function mailboxes(fields: readonly RawField[], name: string): Address[] {
  return readMailboxes(fields, name).addresses
}

/** One mailbox while it is read. */
class Pending {
  /** What stands in angle brackets. */
  angles: string[] = []
  /** What stands outside, as it is written. */
  display = ''
  comment = ''
  /** The same in words, white space around dots and at signs taken out (RFC 5322 4.4). */
  words: string[] = []
  /** The last word without what white space and a dot stood between, where that makes another address. */
  shorter: string[] = []
  gap = true

  add(piece: string, text = piece): void {
    this.display += text
    const last = this.words.at(-1)
    const glued = last !== undefined && this.gap && (/^[.@]/.test(piece) || /[.@]$/.test(last))
    if (last === undefined || (this.gap && !glued)) {
      this.words.push(piece)
    }
    else {
      // "Dr. x@y.example" is "Dr.x@y.example" by the standard; the reader sees x@y.example too.
      if (glued && !last.includes('@') && !piece.startsWith('@')) this.shorter.push(piece)
      this.words[this.words.length - 1] = last + piece
    }
    this.gap = false
  }

  space(): void {
    this.gap = true
    if (this.display && !this.display.endsWith(' ')) this.display += ' '
  }
}

// One pass over the field; where brackets close is found in one pass before, and after a quotation mark that never closes
// no other is looked for.
function readList(value: string, out: Mailboxes): void {
  const ends: Closing = { comments: endsOfComments(value), quotes: true }
  let pending = new Pending()
  let at = 0
  const finish = () => {
    finishMailbox(pending, out)
    pending = new Pending()
  }
  while (at < value.length) {
    const c = value[at]!
    if (c === '"') {
      const quoted = readQuoted(value, at, ends)
      if (!quoted.closed) out.doubtful = true
      pending.add(value.slice(at, quoted.end), quoted.text)
      at = quoted.end
    }
    else if (c === '(') {
      const end = ends.comments.get(at)
      if (end === undefined) {
        // A bracket that never closes is text.
        out.doubtful = true
        pending.add(c)
        at++
      }
      else {
        pending.comment ||= value.slice(at + 1, end - 1).trim()
        pending.space()
        at = end
      }
    }
    else if (c === '<') {
      const angle = readAngle(value, at, ends)
      if (!angle.closed) out.doubtful = true
      pending.angles.push(angle.text)
      pending.space()
      at = angle.end
    }
    else if (c === ',' || c === ';') {
      finish()
      at++
    }
    else if (c === ':' && !pending.angles.length && !pending.words.some(w => w.includes('@'))) {
      pending = new Pending() // a group's name
      at++
    }
    else if (' \t\r\n'.includes(c)) {
      pending.space()
      at++
    }
    else if (c === '>') {
      out.doubtful = true
      pending.space()
      at++
    }
    else {
      const end = endOfWord(value, at)
      pending.add(value.slice(at, end))
      at = end
    }
  }
  finish()
}

function endOfWord(value: string, from: number): number {
  let end = from + 1
  while (end < value.length && !' \t\r\n"(<>,;:'.includes(value[end]!)) end++
  return end
}

function readQuoted(value: string, from: number, ends: Closing): { text: string, end: number, closed: boolean } {
  let text = ''
  for (let i = from + 1; ends.quotes && i < value.length; i++) {
    if (value[i] === '"') return { text, end: i + 1, closed: true }
    text += value[i] === '\\' && i + 1 < value.length ? value[++i]! : value[i]!
  }
  // Only the mark itself is taken, so that addresses after a mark that never closes are seen.
  ends.quotes = false
  return { text: '', end: from + 1, closed: false }
}

/** What is known of how a field closes what it opens. */
interface Closing {
  /** By where a round bracket opens, where the comment ends. */
  comments: ReadonlyMap<number, number>
  /** False once a quotation mark was found that never closes. */
  quotes: boolean
}

function endsOfComments(value: string): Map<number, number> {
  const ends = new Map<number, number>()
  const open: number[] = []
  for (let i = value.indexOf('('); i >= 0 && i < value.length; i++) {
    if (value[i] === '\\') i++
    else if (value[i] === '(') open.push(i)
    else if (value[i] === ')' && open.length) ends.set(open.pop()!, i + 1)
  }
  return ends
}

function readAngle(value: string, from: number, ends: Closing): { text: string, end: number, closed: boolean } {
  let comma = -1
  let text = ''
  for (let i = from + 1; i < value.length; i++) {
    const c = value[i]!
    if (c === '>') return { text, end: i + 1, closed: true }
    if (c === '<') return { text, end: i, closed: false }
    if (c === '"') {
      const quoted = readQuoted(value, i, ends)
      text += value.slice(i, quoted.end)
      i = quoted.end - 1
    }
    else if (c === '(' && ends.comments.has(i)) {
      i = ends.comments.get(i)! - 1
    }
    else {
      if (c === ',' && comma < 0) comma = i
      text += c
    }
  }
  return comma < 0 ? { text, end: value.length, closed: false } : { text: value.slice(from + 1, comma), end: comma, closed: false }
}

function finishMailbox(pending: Pending, out: Mailboxes): void {
  const written = pending.display.trim()
  const found = pending.angles.flatMap(a => addressesIn([glue(a).replace(/^@[^:]*:/, '')], out))
  const bracketed = found.length > 0
  if (pending.angles.length > 1 || (pending.angles.length === 1 && pending.angles[0]!.trim() !== '' && !bracketed)) out.doubtful = true
  const bare = pending.words.some(w => w.includes('@')) ? pending.words : []
  const outside = bracketed
    ? addressesIn(
        bare.filter(w => !isQuoted(w)),
        out,
      )
    : addressesIn([...bare, ...pending.shorter], out)
  if (!bracketed && (pending.words.length > 1 || pending.shorter.length > 0) && outside.length) out.doubtful = true
  const name = bracketed ? written : pending.comment
  const texts = new Set([...found, ...outside])
  if (!texts.size && written) out.doubtful = true
  let first = true
  for (const text of texts) {
    if (out.addresses.length >= MAX_ADDRESSES) return
    out.addresses.push(makeAddress(text, first ? decodeWords(name).trim() : ''))
    first = false
  }
}

function isQuoted(word: string): boolean {
  return word.startsWith('"') && word.endsWith('"')
}

/** White space around dots and at signs taken out, and at the ends. */
function glue(text: string): string {
  if (!/\s/.test(text)) return text
  const pending = new Pending()
  for (const piece of text.split(/(\s+)/)) {
    if (!piece) continue
    if (piece.trim() === '') pending.gap = true
    else pending.add(piece)
  }
  return pending.words.find(w => w.includes('@')) ?? pending.words.join(' ')
}

const AROUND = '\'`´‘’“”"[]{}|*_=;:!?'

/** Characters that a local part may begin with (atext, RFC 5322 3.2.3) and that people write around an address; and what closes them. */
const CLOSES: Record<string, string> = {
  '\'': '\'',
  '`': '`\'´',
  '{': '}',
  '}': '}',
  '|': '|',
  '*': '*',
  '_': '_',
  '=': '=',
  '!': '!',
  '?': '?',
}

// The addresses among words, without quotes and brackets around them: a reader takes "'x@y.example'" for x@y.example, and
// "'x@y.example" is another address.
function addressesIn(words: readonly string[], out: Mailboxes): string[] {
  const found: string[] = []
  for (const word of words) {
    let [start, end] = [0, word.length]
    const isLiteral = word.lastIndexOf('[') > word.lastIndexOf('@')
    while (end > start && (word[end - 1] === '.' || (!isLiteral && AROUND.includes(word[end - 1]!)))) end--
    const after = new Set(word.slice(end))
    if (!isQuotedLocal(word)) while (start < end && isAround(word[start]!, after)) start++
    const text = word.slice(start, end)
    const at = text.lastIndexOf('@')
    if (at < 0) continue
    if (end < word.length || start > 0) out.doubtful = true
    if (at === 0 || at === text.length - 1) {
      out.doubtful = true
      continue
    }
    found.push(text)
    const first = isQuotedLocal(text) ? at : text.indexOf('@')
    if (first === at) continue
    // "a@b.example@c.example": some readers take the first sign, some the last.
    out.doubtful = true
    const [, second = ''] = text.split('@', 2)
    if (first > 0 && second) found.push(`${text.slice(0, first)}@${second}`)
  }
  return found
}

function isAround(character: string, after: ReadonlySet<string>): boolean {
  const closes = CLOSES[character]
  return AROUND.includes(character) && (closes === undefined || [...closes].some(c => after.has(c)))
}

function isQuotedLocal(text: string): boolean {
  return text.startsWith('"') && text.includes('"@')
}
