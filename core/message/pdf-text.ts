import { Unzlib } from 'fflate'
import { latin1 } from './bytes'

export const MAX_PAGES = 50
/** What the streams of a document may come to when unpacked, pictures aside: a bomb is more. */
const MAX_UNPACKED = 64 * 1024 * 1024
const PIECE = 16 * 1024

/** Thrown where a document would unpack to more than is safe. */
export class UnpacksTooFar extends Error {}

/**
 * The text of a PDF document (ISO 32000), line by line, of its first 50 pages or as much as is asked for.
 * @param most UTF-16 units
 * @returns the text, and whether pages were left out
 * @throws where the document is malformed, needs a password, or unpacks too far
 */
export async function pdfText(bytes: Uint8Array, most: number): Promise<{ text: string, morePages: boolean }> {
  if (unpackedAtLeast(bytes) > MAX_UNPACKED) throw new UnpacksTooFar()
  // Half of all that a thread would load: only where a document comes.
  const { getDocumentProxy } = await import('unpdf')
  // The reader takes the buffer over; the message keeps its own. Nothing in a document is ever run.
  const document = await getDocumentProxy(bytes.slice(), { isEvalSupported: false, enableXfa: false, stopAtErrors: false, verbosity: 0 })
  try {
    let text = ''
    for (let number = 1; number <= Math.min(document.numPages, MAX_PAGES) && text.length < most; number++) {
      const page = await document.getPage(number)
      const { items } = await page.getTextContent()
      for (const item of items) if ('str' in item) text += item.hasEOL ? `${item.str}\n` : item.str
      text += '\n'
      page.cleanup()
    }
    return { text, morePages: document.numPages > MAX_PAGES }
  }
  finally {
    await document.destroy()
  }
}

// The reader unpacks whatever a stream holds. Streams are told by how they begin, not by what they are called: a name can
// be written in many ways (7.3.5). What is packed twice gets past this; the clock of whoever calls stops that.
function unpackedAtLeast(bytes: Uint8Array): number {
  const text = latin1(bytes)
  const opening = />>\s{0,20}stream\r?\n/g
  let total = 0
  for (let match = opening.exec(text); match && total <= MAX_UNPACKED; match = opening.exec(text)) {
    const begin = opening.lastIndex
    const close = text.indexOf('endstream', begin)
    const end = close < 0 ? bytes.length : close
    // Streams do not lie in each other, so all of them together are gone through once.
    opening.lastIndex = end
    const dictionary = text.slice(Math.max(0, match.index - 2000), match.index)
    // RFC 1950 2.2: the first two bytes of what zlib packed.
    if (
      (bytes[begin]! & 15) !== 8 ||
      (bytes[begin]! * 256 + bytes[begin + 1]!) % 31 !== 0 ||
      dictionary.slice(dictionary.lastIndexOf('obj')).includes('/Image')
    )
      continue
    total += unpackedSize(bytes.subarray(begin, end), MAX_UNPACKED - total)
  }
  return total
}

/** How much comes out, given up once it is more than `most`. */
function unpackedSize(packed: Uint8Array, most: number): number {
  let size = 0
  const unpack = new Unzlib((chunk) => {
    size += chunk.length
  })
  try {
    for (let at = 0; at < packed.length && size <= most; at += PIECE)
      unpack.push(packed.subarray(at, at + PIECE), at + PIECE >= packed.length)
  }
  catch {
    // Cut short or damaged: what came out before counts, and the reader will say what it thinks of it.
  }
  return size
}
