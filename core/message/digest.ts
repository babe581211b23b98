import { sha256 as sha256Here } from '@noble/hashes/sha2.js'
import { bytesToHex } from '@noble/hashes/utils.js'

/** Below this the way to the run time's own code costs more than it saves. */
const SMALL = 8 * 1024

/** SHA-256 (FIPS 180-4) in lower-case hexadecimal. */
export async function sha256(bytes: Uint8Array): Promise<string> {
  // Web Cryptography takes no memory that threads share.
  if (bytes.length < SMALL || !(bytes.buffer instanceof ArrayBuffer)) return bytesToHex(sha256Here(bytes))
  return bytesToHex(new Uint8Array(await crypto.subtle.digest('SHA-256', bytes as Uint8Array<ArrayBuffer>)))
}
