import { createPublicKey, verify, type KeyObject } from 'node:crypto'
import type { SignatureChecks } from '#core/verification'

/** What stands before the 32 bytes of an Ed25519 key in DER (RFC 8410 4). */
const ED25519_PREFIX = Buffer.from('302a300506032b6570032100', 'hex')

/** By OpenSSL on the calling thread: for signatures of this size, quicker than the way to another thread and back. */
export const nodeChecks: SignatureChecks = {
  async read(type, bytes) {
    const der = type === 'rsa' ? Buffer.from(bytes) : Buffer.concat([ED25519_PREFIX, bytes])
    const key = createPublicKey({ key: der, format: 'der', type: 'spki' })
    if (key.asymmetricKeyType !== type) throw new Error(`the key is of type ${key.asymmetricKeyType}`)
    return { key, bits: key.asymmetricKeyDetails?.modulusLength ?? null }
  },
  verify: (type, key, data, signature) => verify(type === 'rsa' ? 'sha256' : null, data, key as KeyObject, signature),
}
