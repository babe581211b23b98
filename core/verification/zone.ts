import { addTo } from '../add-to'
import { DnsError, type DnsAnswers, type DnsType, type Resolve } from './dns'

/** A record of a zone. Names in lower case, without the dot at their end. */
export interface ZoneRecord {
  type: string
  /** Seconds. */
  ttl: number
  /** Its data as words; quoted strings without their quotes. One character an octet. */
  data: string[]
}

/** Records by name. */
export type Zone = ReadonlyMap<string, readonly ZoneRecord[]>

/** What is wrong with a zone file, and in which line. */
export class ZoneError extends Error {}

const MAX_BYTES = 20 * 1024 * 1024
const DEFAULT_TTL = 300
/** A line of words, brackets joined (RFC 1035 5.1). */
interface Entry {
  line: number
  /** The line begins with white space: its name is that of the record before. */
  same: boolean
  words: Word[]
}
interface Word {
  text: string
  quoted: boolean
}

/**
 * Reads a zone in master file format (RFC 1035 5.1, with $TTL of RFC 2308 4). $INCLUDE is refused: nothing else is read.
 * Throws a ZoneError.
 */
export function readZone(text: string): Zone {
  if (text.length > MAX_BYTES) throw new ZoneError(`The zone file is larger than ${MAX_BYTES / 1024 / 1024} MB.`)
  const zone = new Map<string, ZoneRecord[]>()
  let origin = ''
  let ttl = DEFAULT_TTL
  let owner: string | null = null
  for (const { line, same, words } of entries(text)) {
    const first = words[0]!
    const fail = (what: string) => new ZoneError(`Line ${line} of the zone file: ${what}`)
    if (!first.quoted && first.text.startsWith('$')) {
      const value = words[1]?.text
      if (value === undefined) throw fail(`${first.text} has no value.`)
      if (first.text.toUpperCase() === '$ORIGIN') origin = absolute(value, origin)
      else if (first.text.toUpperCase() === '$TTL') ttl = seconds(value) ?? ttl
      else throw fail(`${first.text} is not supported; use $ORIGIN and $TTL.`)
      continue
    }
    const rest = same ? [...words] : words.slice(1)
    if (!same) owner = absolute(first.text, origin)
    if (owner === null) throw fail('the first record has no name.')
    let own = ttl
    // TTL and class in either order.
    while (rest.length && !rest[0]!.quoted) {
      const time = seconds(rest[0]!.text)
      if (time !== null) own = time
      else if (!/^(?:in|ch|hs|cs)$/i.test(rest[0]!.text)) break
      rest.shift()
    }
    const type = rest.shift()
    if (!type || type.quoted) throw fail('the type of the record is missing.')
    const record = { type: type.text.toUpperCase(), ttl: own, data: data(type.text.toUpperCase(), rest, origin) }
    if (!isWhole(record)) throw fail(`a ${record.type} record cannot read “${rest.map(w => w.text).join(' ').slice(0, 80)}”.`)
    addTo(zone, owner, record)
  }
  return zone
}

// Which words of the data are names.
const NAMES: Record<string, readonly number[]> = { MX: [1], CNAME: [0], NS: [0], PTR: [0], SOA: [0, 1] }

function data(type: string, words: readonly Word[], origin: string): string[] {
  return words.map(({ text }, i) => (NAMES[type]?.includes(i) ? absolute(text, origin) : text))
}

function isWhole({ type, data }: ZoneRecord): boolean {
  switch (type) {
    case 'A':
      return data.length === 1 && /^\d{1,3}(?:\.\d{1,3}){3}$/.test(data[0]!)
    case 'AAAA':
      return data.length === 1 && /^[\da-f:.]{2,45}$/i.test(data[0]!)
    case 'MX':
      return data.length === 2 && /^\d{1,5}$/.test(data[0]!)
    case 'CNAME':
    case 'NS':
    case 'PTR':
      return data.length === 1
    case 'TXT':
      return data.length > 0 && data.every(text => text.length <= 255)
    default:
      return data.length > 0
  }
}

function absolute(name: string, origin: string): string {
  const lower = name.toLowerCase()
  if (lower === '@') return origin
  if (lower === '.') return ''
  if (lower.endsWith('.')) return lower.slice(0, -1)
  return origin ? `${lower}.${origin}` : lower
}

const UNITS: Record<string, number> = { s: 1, m: 60, h: 3600, d: 86_400, w: 604_800 }

function seconds(text: string): number | null {
  const found = /^(\d{1,9})([smhdw]?)$/i.exec(text)
  return found ? Number(found[1]) * UNITS[found[2]!.toLowerCase() || 's']! : null
}

/** Words of a file, entry by entry: comments taken off, brackets joined, escapes resolved (\X and \DDD). */
function* entries(text: string): Generator<Entry> {
  let entry: Entry | null = null
  let depth = 0
  for (const [i, line] of text.split(/\r?\n/).entries()) {
    entry ??= { line: i + 1, same: /^[ \t]/.test(line), words: [] }
    let at = 0
    while (at < line.length) {
      const char = line[at]!
      if (char === ';') break
      if (char === '(' || char === ')') depth = Math.max(0, depth + (char === '(' ? 1 : -1))
      if (' \t()'.includes(char)) {
        at++
        continue
      }
      const read = readWord(line, at, i + 1)
      entry.words.push(read.word)
      at = read.end
    }
    if (depth > 0) continue
    if (entry.words.length) yield entry
    entry = null
  }
  if (entry?.words.length) throw new ZoneError(`Line ${entry.line} of the zone file: a bracket is not closed.`)
}

function readWord(line: string, start: number, number: number): { word: Word, end: number } {
  const quoted = line[start] === '"'
  let at = quoted ? start + 1 : start
  let text = ''
  for (; at < line.length; at++) {
    const char = line[at]!
    if (quoted ? char === '"' : ' \t();"'.includes(char)) break
    if (char !== '\\') {
      text += char
      continue
    }
    const code = /^\d{3}/.exec(line.slice(at + 1, at + 4))
    if (code && Number(code[0]) > 255) throw new ZoneError(`Line ${number} of the zone file: \\${code[0]} is not an octet.`)
    text += code ? String.fromCharCode(Number(code[0])) : (line[at + 1] ?? '')
    at += code ? 3 : 1
  }
  if (quoted && line[at] !== '"') throw new ZoneError(`Line ${number} of the zone file: a quotation mark is not closed.`)
  return { word: { text, quoted }, end: quoted ? at + 1 : at }
}

const MAX_ALIASES = 8

/** The records of a name and type, aliases followed (RFC 1034 3.6.2) and wildcards filled in (RFC 4592). Rejects with a DnsError. */
export function recordsIn(zone: Zone, asked: string, type: string): readonly ZoneRecord[] {
  let name = asked
  for (let steps = 0; steps < MAX_ALIASES; steps++) {
    const records = zone.get(name) ?? wildcard(zone, name)
    if (!records) throw new DnsError(hasBelow(zone, name) ? 'ENODATA' : 'ENOTFOUND', `${asked} has no ${type} record`)
    const own = records.filter(r => r.type === type)
    if (own.length) return own
    const alias = records.find(r => r.type === 'CNAME')
    if (!alias) throw new DnsError('ENODATA', `${asked} has no ${type} record`)
    name = alias.data[0]!
  }
  throw new DnsError('ETIMEOUT', `the aliases of ${asked} do not end`)
}

function wildcard(zone: Zone, name: string): readonly ZoneRecord[] | null {
  if (hasBelow(zone, name)) return null
  for (let dot = name.indexOf('.'); dot >= 0; dot = name.indexOf('.', dot + 1)) {
    const parent = name.slice(dot + 1)
    const found = zone.get(`*.${parent}`)
    if (found) return found
    if (zone.has(parent) || hasBelow(zone, parent)) return null
  }
  return null
}

const belows = new WeakMap<Zone, Set<string>>()

// A name with names below it is there, though it has no records (RFC 8020).
function hasBelow(zone: Zone, name: string): boolean {
  let set = belows.get(zone)
  if (!set) {
    set = new Set()
    for (const key of zone.keys())
      for (let dot = key.indexOf('.'); dot >= 0; dot = key.indexOf('.', dot + 1)) set.add(key.slice(dot + 1))
    belows.set(zone, set)
  }
  return set.has(name)
}

/** Looks up in a zone, and nowhere else. */
export function zoneResolver(zone: Zone): Resolve {
  return async <T extends DnsType>(name: string, type: T) => {
    const plain = name.toLowerCase().replace(/\.$/, '')
    return recordsIn(zone, plain, type).map(record => SHAPES[type](record.data)) as DnsAnswers[T]
  }
}

const SHAPES: { [T in DnsType]: (data: readonly string[]) => DnsAnswers[T][number] } = {
  TXT: data => [...data],
  A: data => data[0]!,
  AAAA: data => data[0]!,
  MX: data => ({ priority: Number(data[0]), exchange: data[1]! }),
  PTR: data => data[0]!,
}
