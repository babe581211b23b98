// A file of mailauth that comes without types.
declare module 'mailauth/lib/dkim/body/index.js' {
  interface BodyHash {
    /** Octets of the canonical body, and of what is hashed of it. */
    canonicalizedLength: number
    bodyHashedBytes: number
    update(chunk: Uint8Array): void
    digest(encoding: 'base64'): string
  }
  export function dkimBody(canonicalization: string, algorithm: string, maxLength: number | ''): BodyHash
}
