import { joinedBytes, type FieldBytes, type SignatureFound } from '../message'
import { CanonicalHeader } from './canonical'
import { DnsError, type LookUps } from './dns'
import { base64, isSignedBy, readKey, type SignatureChecks } from './keys'
import { arcStateOf, bodyHasher, NO_ARC, type ArcState } from './mailauth'
import { signaturesOf, type Signature } from './signatures'
import { unfolded } from './tags'

/** A header beyond this is not verified; the fields of ten hostile signatures would be canonicalized over and over. */
const MAX_HEADER = 256 * 1024
/** Continuation lines of one field. */
const MAX_FOLDS = 500
/** What an algorithm would copy again and again while it waits for the end of a line. */
const MAX_LINE = 1024 * 1024
const LF = 10
const CR = 13

export interface DkimFound {
  signatures: SignatureFound[]
  /** Signatures beyond those that were looked at. */
  more: number
  /** For verifying ARC. */
  arc: ArcState
}

interface Asked {
  bytes: Uint8Array
  fields: readonly FieldBytes[]
  body: number
  /** Of From, as A-labels; null where there is not exactly one. */
  fromDomain: string | null
  /** The clock of expiry. */
  now: Date
  checks: SignatureChecks
}

type Outcome = Pick<SignatureFound, 'result' | 'reason'>

/** Verifies the DKIM signatures of a message (RFC 6376, 8463, 8301). Never rejects for what a message or DNS says. */
export async function verifyDkim(asked: Asked, lookUps: LookUps): Promise<DkimFound> {
  const { looked, more } = signaturesOf(asked.fields, asked.fromDomain)
  const sealed = asked.fields.some(f => f.name.startsWith('arc-'))
  const sound = looked.filter(s => s.problem === null)
  const tooMuch = sound.length || sealed ? hindrance(asked) : null
  if (tooMuch !== null)
    return {
      signatures: looked.map(s => found(s, s.problem ?? { result: 'permerror', reason: tooMuch })),
      more,
      arc: sealed ? { chain: false, error: new Error(tooMuch) } : NO_ARC,
    }
  const message = new SignedMessage(asked)
  const signatures = await Promise.all(
    looked.map(async s => found(s, s.problem ?? (await verifyOne(s, { message, now: asked.now, lookUps, checks: asked.checks })))),
  )
  return { signatures, more, arc: sealed ? await arcStateOf(withOnly(asked, sound), lookUps, asked.now) : NO_ARC }
}

function found({ domain, selector, aligned }: Signature, { result, reason }: Outcome): SignatureFound {
  return { domain, selector, result, aligned, ...(reason === undefined ? {} : { reason }) }
}

function hindrance({ bytes, fields, body }: Asked): string | null {
  if (body > MAX_HEADER) return 'the header is too long to verify'
  const isFolded = ({ value }: FieldBytes) => value.split('\n', MAX_FOLDS + 2).length > MAX_FOLDS + 1
  if (fields.some(isFolded)) return 'a header field has too many lines'
  let start = body
  for (let at = bytes.indexOf(LF, body); at >= 0; at = bytes.indexOf(LF, start)) {
    if (at - start > MAX_LINE) return 'a line is too long to verify'
    start = at + 1
  }
  return bytes.length - start > MAX_LINE ? 'a line is too long to verify' : null
}

interface Verifying {
  message: SignedMessage
  now: Date
  lookUps: LookUps
  checks: SignatureChecks
}

async function verifyOne(signature: Signature, { message, now, lookUps, checks }: Verifying): Promise<Outcome> {
  const { tags, domain, selector, identity } = signature
  const [made, expires] = [tags.get('t'), tags.get('x')].map(t => (t === undefined ? null : Number(t)))
  if (expires !== null && made !== null && expires! < made!) return { result: 'permerror', reason: 'it expires before it was made' }
  const { hash, unsigned } = message.bodyHash(signature)
  if (hash !== unfolded(tags.get('bh')!)) return { result: 'fail', reason: 'the body was changed' }
  let records: string[]
  try {
    records = await keyRecords(lookUps, `${selector}._domainkey.${domain}`)
  }
  catch (error) {
    if (!(error instanceof DnsError)) throw error
    return error.code === 'ETIMEOUT' ? { result: 'temperror', reason: 'DNS did not answer' } : NO_KEY
  }
  if (!records.length) return NO_KEY
  const key = await readKey(records[0]!, checks)
  if ('result' in key) return key
  if (key.type !== tags.get('a')!.toLowerCase().split('-')[0]) return { result: 'permerror', reason: 'its key is of another type' }
  if (key.flags.includes('s') && identity !== domain) return { result: 'permerror', reason: 'its key is for exactly its domain (t=s)' }
  const value = base64(unfolded(tags.get('b')!))
  if (!value || !(await isSignedBy(key, message.header(signature), value, checks)))
    return { result: 'fail', reason: 'the signed header fields were changed, or another key signed them' }
  if (expires !== null && expires! * 1000 < now.getTime()) return { result: 'fail', reason: 'it has expired (x=)' }
  // Whoever appended to such a message would be taken for its signer (RFC 6376 8.2).
  if (unsigned) return { result: 'policy', reason: `it covers only part of the body (l=): ${unsigned} bytes are not signed` }
  // Such mail is to be treated as if it were not signed.
  return key.flags.includes('y') ? { result: 'policy', reason: 'its key is for testing only (t=y)' } : { result: 'pass' }
}

const NO_KEY: Outcome = { result: 'permerror', reason: 'there is no key at its selector' }

// Other records at the same name are no keys (RFC 6376 3.6.2.2).
async function keyRecords(lookUps: LookUps, name: string): Promise<string[]> {
  const records = await lookUps.ask(name, 'TXT')
  return records.map(r => r.join('')).filter(r => /(?:^|;)\s*p\s*=/.test(r))
}

/** What is signed of a message, each body hash computed once. */
class SignedMessage {
  readonly #header: CanonicalHeader
  readonly #body: Uint8Array
  readonly #hashes = new Map<string, { hash: string, unsigned: number }>()

  constructor({ bytes, fields, body }: Asked) {
    this.#header = new CanonicalHeader(fields)
    this.#body = withLineEnds(bytes.subarray(body))
  }

  bodyHash({ tags }: Signature): { hash: string, unsigned: number } {
    const canonical = (tags.get('c') ?? 'simple').toLowerCase().split('/')[1] ?? 'simple'
    const length = tags.get('l')
    const key = `${canonical} ${length ?? ''}`
    let made = this.#hashes.get(key)
    if (!made) this.#hashes.set(key, (made = bodyHasher(canonical, length === undefined ? null : Number(length))(this.#body)))
    return made
  }

  header({ field, tags }: Signature): Uint8Array<ArrayBuffer> {
    return this.#header.signedBy({ field, names: tags.get('h')!, canonical: tags.get('c') ?? 'simple' })
  }
}

/** Each line ended by CRLF, the last one too (RFC 6376 3.4.3, 3.4.4): mailauth overlooks a blank at the end of one that is not. */
function withLineEnds(body: Uint8Array): Uint8Array {
  const pieces: Uint8Array[] = []
  let from = 0
  for (let at = body.indexOf(LF); at >= 0; at = body.indexOf(LF, at + 1)) {
    if (at > 0 && body[at - 1] === CR) continue
    pieces.push(body.subarray(from, at), LINE_END)
    from = at + 1
  }
  if (from) pieces.push(body.subarray(from))
  const whole = from ? joinedBytes(pieces) : body
  return whole.length && whole.at(-1) !== LF ? joinedBytes([whole, LINE_END]) : whole
}

const LINE_END = new Uint8Array([CR, LF])

// The message with no other signatures than these: the order of the rest stays.
function withOnly({ bytes, body, fields }: Asked, kept: readonly Signature[]): Uint8Array {
  const wanted = new Set(kept.map(s => s.field))
  const pieces: Uint8Array[] = []
  let from = 0
  for (const field of fields) {
    if (field.name !== 'dkim-signature' || wanted.has(field)) continue
    pieces.push(bytes.subarray(from, field.start))
    from = field.end
  }
  return joinedBytes([...pieces, bytes.subarray(from, body), withLineEnds(bytes.subarray(body))])
}
