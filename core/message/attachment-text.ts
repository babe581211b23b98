import { unzipSync } from 'fflate'
import { decodeCharset, latin1 } from './bytes'
import { htmlText } from './html-text'
import { pdfText, UnpacksTooFar } from './pdf-text'

const MOST_BYTES = 10 * 1024 * 1024
const MOST_TEXT = 256 * 1024
/** What one part of an office document may come to when unpacked, and all of them together: a bomb is more. */
const MOST_PART = 8 * 1024 * 1024
const MOST_UNPACKED = 32 * 1024 * 1024
const MOST_PARTS = 200

const OFFICE_PARTS = /^(?:word\/(?:document|footnotes|header\d*|footer\d*)\.xml|xl\/sharedStrings\.xml|ppt\/(?:slides|notesSlides)\/[^/]+\.xml|content\.xml)$/

/** What an attachment says, and why nothing of it could be read where its kind should have text. */
export interface AttachmentText {
  text: string | null
  unreadable: string | null
}

/** What is said of a document that was left closed. */
export const TOOK_TOO_LONG = 'reading took too long'

const NOTHING: AttachmentText = { text: null, unreadable: null }

/**
 * The text of an attachment where its type has any: plain text, CSV, HTML, PDF, and office documents (OOXML, ODF). What is
 * too large, malformed or locked says so, since a document that no rule can look into is worth a rule of its own.
 * @param closed what must be taken apart before it can be read is left alone, and says that
 */
export async function attachmentText(bytes: Uint8Array, declaredType: string, detectedType: string | null, name: string, closed = false): Promise<AttachmentText> {
  const readable = readerFor(declaredType, detectedType, name)
  if (!bytes.length || !readable) return NOTHING
  if (closed && readable !== plainText) return { text: null, unreadable: TOOK_TOO_LONG }
  if (bytes.length > MOST_BYTES) return { text: null, unreadable: 'larger than 10 MB' }
  try {
    const text = await readable(bytes)
    return { text: text.trim() ? text.slice(0, MOST_TEXT) : null, unreadable: null }
  }
  catch (error) {
    return { text: null, unreadable: whyUnreadable(error) }
  }
}

function whyUnreadable(error: unknown): string {
  if (error instanceof UnpacksTooFar) return 'unpacks to more than is safe'
  return error instanceof Error && /password/i.test(error.name + error.message) ? 'locked with a password' : 'malformed'
}

type Reader = (bytes: Uint8Array) => string | Promise<string>

function readerFor(declaredType: string, detectedType: string | null, name: string): Reader | null {
  const type = detectedType ?? declaredType
  if (declaredType === 'text/html' || (!detectedType && /\.html?$/i.test(name))) return bytes => htmlText(plainText(bytes)).segments.map(s => s.text).join('\n')
  if (!detectedType && (declaredType.startsWith('text/') || /\.(?:txt|csv|log|md|ics)$/i.test(name))) return plainText
  if (type === 'application/pdf') return bytes => pdfText(bytes, MOST_TEXT)
  if (/openxmlformats|oasis\.opendocument|^application\/zip$/.test(type)) return officeText
  return null
}

function plainText(bytes: Uint8Array): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes)
  }
  catch {
    return decodeCharset(bytes, 'windows-1252') ?? latin1(bytes)
  }
}

function officeText(bytes: Uint8Array): string {
  let room = MOST_UNPACKED
  let parts = 0
  const files = unzipSync(bytes, {
    filter: ({ name, originalSize }) => {
      if (!OFFICE_PARTS.test(name) || originalSize > MOST_PART || originalSize > room || ++parts > MOST_PARTS) return false
      room -= originalSize
      return true
    },
  })
  return Object.keys(files).sort().map(name => xmlText(new TextDecoder().decode(files[name]))).filter(Boolean).join('\n')
}

// Paragraphs, rows and cells on lines of their own; runs within one stay together, so that no word is split by a change of font.
function xmlText(xml: string): string {
  return xml.replace(/<\/(?:w:p|a:p|text:p|text:h|si|w:tr|table:table-row)>|<w:(?:br|tab)\b[^>]*>/g, '\n').replace(/<[^>]*>/g, '')
    .replace(/&(?:lt|gt|quot|apos|amp|#(\d+)|#x([0-9a-f]+));/gi, (entity, decimal?: string, hex?: string) => decimal || hex ? String.fromCodePoint(Math.min(0x10FFFF, parseInt(decimal ?? hex!, decimal ? 10 : 16))) : ({ '&lt;': '<', '&gt;': '>', '&quot;': '"', '&apos;': '\'', '&amp;': '&' } as Record<string, string>)[entity.toLowerCase()] ?? entity)
    .replace(/\n{2,}/g, '\n').trim()
}
