/** Answers of DNS by record type, in the shapes of Node's dns.resolve. */
export interface DnsAnswers {
  /** Each record as its strings (RFC 1035 3.3.14). */
  TXT: string[][]
  A: string[]
  AAAA: string[]
  MX: { priority: number, exchange: string }[]
  PTR: string[]
}
export type DnsType = keyof DnsAnswers

/** Looks records up. Rejects with a DnsError. */
export type Resolve = <T extends DnsType>(name: string, type: T) => Promise<DnsAnswers[T]>

/** ENOTFOUND: there is no such name. ENODATA: it has no such record. ETIMEOUT: not known at present. */
export type DnsErrorCode = 'ENOTFOUND' | 'ENODATA' | 'ETIMEOUT'

export class DnsError extends Error {
  constructor(
    readonly code: DnsErrorCode,
    message: string,
  ) {
    super(message)
  }
}

/** DNS says that there is no such record. Any other failure says nothing. */
export function saysNothingThere(error: unknown): boolean {
  return error instanceof DnsError && error.code !== 'ETIMEOUT'
}

/** A look-up and what it answered, to show why. */
export interface LookUp {
  name: string
  type: DnsType
  /** Records as text; null where there was no answer. */
  records: string[] | null
  error?: DnsErrorCode
}

/** RFC 1035 2.3.4. */
const MAX_NAME = 253
/**
 * A label that a resolver asks for as it is. It takes names as C strings: NUL would end the name, and a signature of one domain be
 * verified by the key of another; a backslash begins an escape (RFC 1035 5.1).
 */
const LABEL = /^[!-[\]-~]{1,63}$/
/** What is shown of an answer: as many records, and as much of each. */
const MAX_SHOWN = 10
const MAX_SHOWN_TEXT = 500

/** The look-ups of one message: each name and type is asked for once, and all of them are remembered. */
export class LookUps {
  readonly made: LookUp[] = []
  readonly #answers = new Map<string, Promise<unknown>>()

  constructor(private readonly resolve: Resolve) {}

  /** Rejects with a DnsError. What goes wrong in any other way counts as temporary. */
  ask<T extends DnsType>(name: string, type: T): Promise<DnsAnswers[T]> {
    const plain = name.toLowerCase().replace(/\.$/, '')
    const key = `${type} ${plain}`
    const known = this.#answers.get(key)
    if (known) return known as Promise<DnsAnswers[T]>
    const asked = this.#look(plain, type)
    this.#answers.set(key, asked)
    return asked
  }

  /** Whether some look-up was not answered. */
  get failed(): boolean {
    return this.made.some(l => l.error === 'ETIMEOUT')
  }

  async #look<T extends DnsType>(name: string, type: T): Promise<DnsAnswers[T]> {
    const look: LookUp = { name: name.slice(0, MAX_NAME), type, records: null }
    this.made.push(look)
    try {
      if (!isName(name)) throw new DnsError('ENOTFOUND', `“${name.slice(0, 80)}” is no domain name`)
      const answer = await this.resolve(name, type)
      look.records = answer.slice(0, MAX_SHOWN).map(record => recordText(record).slice(0, MAX_SHOWN_TEXT))
      return answer
    }
    catch (error) {
      const code = error instanceof Error && 'code' in error ? error.code : null
      look.error = code === 'ENOTFOUND' || code === 'ENODATA' ? code : 'ETIMEOUT'
      throw error instanceof DnsError ? error : new DnsError(look.error, error instanceof Error ? error.message : String(error))
    }
  }
}

function isName(name: string): boolean {
  return name.length <= MAX_NAME && name.split('.').every(label => LABEL.test(label))
}

function recordText(record: DnsAnswers[DnsType][number]): string {
  if (typeof record === 'string') return record
  return Array.isArray(record) ? record.join('') : `${record.priority} ${record.exchange}`
}
