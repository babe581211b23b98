const encoder = new TextEncoder()
// Base64 of 42 bytes and the frame around it stay below the 75 characters of an encoded word (RFC 2047 section 2).
const MAX_BYTES = 42

/** A text as encoded words in UTF-8 and base64 (RFC 2047), cut between characters; plain ASCII stays as it is, in one piece. */
export function encodedWords(text: string): string[] {
  if (/^[\x20-\x7E]*$/.test(text)) return [text]
  const words: string[] = []
  let part = ''
  for (const c of text) {
    if (encoder.encode(part + c).length > MAX_BYTES) {
      words.push(part)
      part = ''
    }
    part += c
  }
  return [...words, part].map(w => `=?utf-8?B?${btoa(String.fromCharCode(...encoder.encode(w)))}?=`)
}
