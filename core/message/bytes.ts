/** Bytes of a header line as text: UTF-8 where valid (RFC 6532), else Windows-1252, so that no byte is lost. */
export function headerText(bytes: Uint8Array): string {
  try {
    return new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(bytes)
  }
  catch {
    return new TextDecoder('windows-1252').decode(bytes)
  }
}

/** Bytes as text in a named character set. An unknown name gives null. */
export function decodeCharset(bytes: Uint8Array, charset: string): string | null {
  try {
    return new TextDecoder(charset || 'utf-8', { ignoreBOM: false }).decode(bytes)
  }
  catch {
    return null
  }
}

/** Base64 (RFC 2045 6.8); everything outside the alphabet is skipped, a broken tail is dropped. */
export function decodeBase64(text: string): Uint8Array {
  const clean = text.replace(/[^A-Za-z0-9+/]/g, '')
  const usable = clean.length % 4 === 1 ? clean.slice(0, -1) : clean
  return Uint8Array.from(atob(usable), c => c.charCodeAt(0))
}

/** Quoted-printable (RFC 2045 6.7); a broken escape is kept as it stands. `text` holds one character a byte. */
export function decodeQuotedPrintable(text: string): Uint8Array {
  const joined = text.replace(/[ \t]+(?=\r?\n|$)/g, '').replace(/=\r?\n/g, '')
  const out = joined.replace(/=([0-9A-Fa-f]{2})/g, (_, hex: string) => String.fromCharCode(parseInt(hex, 16)))
  return Uint8Array.from(out, c => c.charCodeAt(0) & 0xFF)
}

/** One character a byte, for scanning. */
export function latin1(bytes: Uint8Array): string {
  return new TextDecoder('latin1').decode(bytes)
}
