import type { Envelope } from '#core'
import { dkimSign } from 'mailauth/lib/dkim/sign.js'
import { sealMessage } from 'mailauth/lib/arc/index.js'
import type { DemoMail } from './compose'
import { ED25519_KEY, RSA_KEY } from './keys'
import { BULK_SENDER, FORWARDER, isBulk, SELECTORS, signerOf } from './zone'

/** A message as it comes from its sender, over no relay. */
export interface SentMail {
  bytes: Uint8Array
  envelope: Envelope
}

interface Sending {
  mail: DemoMail
  bytes: Uint8Array
  envelope: Envelope
  /** The address of the server that sends it. */
  client: string
}

const KEYS = { rsa: RSA_KEY, ed25519: ED25519_KEY }
/** What is usually signed; the one that is signed again at the end cannot be added. */
const SIGNED = ['from', 'to', 'subject', 'date', 'message-id', 'mime-version', 'content-type', 'list-id', 'from']

/**
 * Sends a message as its domain does: most sign it, some forget to, and what is to fail is not from there. The same message gives the
 * same bytes.
 */
export async function asSent({ mail, bytes, envelope, client }: Sending): Promise<SentMail> {
  const domain = mail.from.address.slice(mail.from.address.lastIndexOf('@') + 1)
  const direct = { ...envelope, client, helo: `mail.${domain}` }
  const at = new Date(envelope.receivedAt)
  const signer = signerOf(domain)
  if (mail.mailFrom?.endsWith(`@${FORWARDER}`)) {
    const forwarded = { ...direct, helo: `mail.${FORWARDER}` }
    return { bytes: await forward(await sign(bytes, { domain, selector: SELECTORS.rsa, key: 'rsa', at }), at), envelope: forwarded }
  }
  const own = isBulk(domain) ? await sign(bytes, { domain: BULK_SENDER, selector: SELECTORS.rsa, key: 'rsa', at }) : bytes
  if (mail.authentication === 'pass' && (signer === 'rsa' || signer === 'ed25519'))
    return { bytes: await sign(own, { domain, selector: SELECTORS[signer], key: signer, at }), envelope: direct }
  if (mail.authentication === 'pass' && signer !== 'spf') throw new Error(`Nothing in the demo’s zone authenticates ${domain}.`)
  // Schools and clubs sign some of it by a key whose record was broken.
  if (mail.authentication === 'none' && signer === 'rsa' && !isBulk(domain))
    return { bytes: await sign(own, { domain, selector: SELECTORS.broken, key: 'rsa', at }), envelope: direct }
  return { bytes: own, envelope: direct }
}

/** Signs a message as a domain of the demo does. Throws for another. */
export async function signAs(domain: string, bytes: Uint8Array): Promise<Uint8Array> {
  const key = signerOf(domain)
  if (key !== 'rsa' && key !== 'ed25519') throw new Error(`${domain || 'This sender'} does not sign in the demo. Use --from accounts@quayline.example.`)
  return sign(bytes, { domain, selector: SELECTORS[key], key, at: new Date() })
}

interface Signing {
  domain: string
  selector: string
  key: keyof typeof KEYS
  at: Date
}

async function sign(bytes: Uint8Array, { domain, selector, key, at }: Signing): Promise<Uint8Array> {
  const { signatures, errors } = await dkimSign(Buffer.from(bytes), {
    headerList: SIGNED,
    signTime: at,
    signatureData: [
      { signingDomain: domain, selector, privateKey: KEYS[key], algorithm: `${key}-sha256`, canonicalization: 'relaxed/relaxed' },
    ],
  } as never)
  if (errors.length) throw new Error(`A message of the demo could not be signed: ${JSON.stringify(errors)}`)
  return Buffer.concat([Buffer.from(signatures), bytes])
}

async function forward(bytes: Uint8Array, at: Date): Promise<Uint8Array> {
  const found = `${FORWARDER}; dkim=pass header.d=gull-rock-marina.example; dmarc=pass header.from=gull-rock-marina.example`
  const changed = Buffer.concat([bytes, Buffer.from('\r\n-- \r\nForwarded for a member of the alumni society.\r\n')])
  const seal = await sealMessage(changed, {
    signingDomain: FORWARDER,
    selector: SELECTORS.rsa,
    privateKey: RSA_KEY,
    algorithm: 'rsa-sha256',
    signTime: at,
    cv: 'none',
    authResults: found,
  } as never)
  return Buffer.concat([seal, changed])
}
