import { addTo } from '../add-to'
import { bytesOfLatin1, type FieldBytes } from '../message'

/** What a signature says of the header that it covers. */
export interface SignedHeader {
  /** h= */
  names: string
  /** c= */
  canonical: string
  /** The signature's own field. */
  field: FieldBytes
}

/** The header of a message as signatures cover it (RFC 6376 3.4.1, 3.4.2, 3.7); each field is brought into its form once. */
export class CanonicalHeader {
  readonly #byName = new Map<string, FieldBytes[]>()
  readonly #relaxed = new Map<FieldBytes, string>()

  constructor(fields: readonly FieldBytes[]) {
    for (const field of fields) addTo(this.#byName, field.name, field)
  }

  signedBy({ names, canonical, field }: SignedHeader): Uint8Array<ArrayBuffer> {
    const isRelaxed = canonical.toLowerCase().startsWith('relaxed')
    const taken = new Map<string, number>()
    let text = ''
    for (const name of names.split(':').map(n => n.trim().toLowerCase())) {
      // Of several fields the lowest first (5.4.2); one that is missing adds nothing.
      const fields = this.#byName.get(name)
      const count = taken.get(name) ?? 0
      taken.set(name, count + 1)
      const one = fields?.[fields.length - 1 - count]
      if (one) text += `${isRelaxed ? this.#relax(one) : simple(one.line)}\r\n`
    }
    const own = withoutSignature(field.line)
    return bytesOfLatin1(text + (isRelaxed ? relaxed(own) : simple(own)))
  }

  #relax(field: FieldBytes): string {
    let made = this.#relaxed.get(field)
    if (made === undefined) this.#relaxed.set(field, (made = relaxed(field.line)))
    return made
  }
}

// Lines that SMTP did not transfer may end in LF alone.
function simple(line: string): string {
  return line.includes('\n') ? line.replace(/\r?\n/g, '\r\n') : line
}

function relaxed(line: string): string {
  const colon = line.indexOf(':')
  const name = line.slice(0, colon).trimEnd().toLowerCase()
  const value = line.slice(colon + 1).replace(/\r?\n/g, '').replace(/[ \t]+/g, ' ')
  return `${name}:${value.replace(/^ /, '').replace(/ $/, '')}`
}

/** The field without the value of its b= (3.5). */
function withoutSignature(line: string): string {
  const colon = line.indexOf(':') + 1
  const tags = line.slice(colon).split(';')
  const own = tags.map((tag) => {
    const equals = tag.indexOf('=')
    return equals > 0 && tag.slice(0, equals).trim() === 'b' ? tag.slice(0, equals + 1) : tag
  })
  return line.slice(0, colon) + own.join(';')
}
