import { unzipSync } from 'fflate'
import { decodeText } from './charset'
import { htmlText } from './html-text'
import { MAX_PAGES, pdfText, UnpacksTooFar } from './pdf-text'
import { numberWords } from '../wording'

const MAX_BYTES = 10 * 1024 * 1024
const MAX_TEXT = 256 * 1024
/** What one part of an office document may come to when unpacked, and all of them together: a bomb is more. */
const MAX_PART = 8 * 1024 * 1024
const MAX_UNPACKED = 32 * 1024 * 1024
const MAX_PARTS = 200

const OFFICE_PARTS =
  /^(?:word\/(?:document|footnotes|endnotes|comments|header\d*|footer\d*)\.xml|xl\/(?:sharedStrings|worksheets\/[^/]+|comments\d*)\.xml|ppt\/(?:slides|notesSlides)\/[^/]+\.xml|content\.xml)$/

/** What an attachment says, and why nothing of it could be read where its kind should have text. */
export interface AttachmentText {
  text: string | null
  unreadable: string | null
  /** Some of it was left out, and why. */
  cut: string | null
}

/** What is said of a document that was left closed. */
export const TOOK_TOO_LONG = 'reading took too long'

const NOTHING: AttachmentText = { text: null, unreadable: null, cut: null }

/** What is known of an attachment before it is read. */
export interface Unread {
  bytes: Uint8Array
  name: string
  declaredType: string
  /** By its first bytes; null where they say nothing. */
  detectedType: string | null
  /** As declared; empty where nothing is. */
  charset: string
}

/**
 * The text of an attachment where its type has any: plain text, CSV, HTML, PDF, and office documents (OOXML, ODF). What is
 * too large, malformed, locked or cut says so, since a document that no rule can look into is worth a rule of its own.
 * @param closed what must be taken apart before it can be read is left alone, and says that
 */
export async function attachmentText(attachment: Unread, closed = false): Promise<AttachmentText> {
  const { bytes } = attachment
  const readable = readerFor(attachment)
  if (!bytes.length || !readable) return NOTHING
  if (closed && readable !== plainText) return { ...NOTHING, unreadable: TOOK_TOO_LONG }
  if (bytes.length > MAX_BYTES && readable !== plainText) return { ...NOTHING, unreadable: 'larger than 10 MB' }
  try {
    const { text, cut } = await readable(attachment)
    return { ...cutText(text), ...(cut ? { cut } : {}), unreadable: null }
  }
  catch (error) {
    return { ...NOTHING, unreadable: whyUnreadable(error) }
  }
}

/** As much of a text as is kept, and whether that is all. */
export function cutText(text: string): Pick<AttachmentText, 'text' | 'cut'> {
  if (!text.trim()) return { text: null, cut: null }
  return text.length > MAX_TEXT
    ? { text: text.slice(0, MAX_TEXT), cut: `only the first ${numberWords(MAX_TEXT)} characters are read` }
    : { text, cut: null }
}

function whyUnreadable(error: unknown): string {
  if (error instanceof UnpacksTooFar) return 'unpacks to more than is safe'
  return error instanceof Error && /password/i.test(error.name + error.message) ? 'protected by a password' : 'malformed'
}

interface ReadText {
  text: string
  cut?: string
}

type Reader = (attachment: Unread) => ReadText | Promise<ReadText>

function readerFor({ declaredType, detectedType, name }: Unread): Reader | null {
  const type = detectedType ?? declaredType
  if (declaredType === 'text/html' || (!detectedType && /\.html?$/i.test(name))) return htmlDocument
  if (!detectedType && (/^(?:text|message)\//.test(declaredType) || /\.(?:txt|csv|log|md|ics|json|xml|eml)$/i.test(name))) return plainText
  if (type === 'text/calendar' || type === 'application/xml') return plainText
  if (type === 'application/pdf') return pdfDocument
  if (/openxmlformats|oasis\.opendocument|^application\/zip$/.test(type)) return officeText
  return null
}

// A character is four bytes at most: what can show is cut before it is decoded.
function plainText({ bytes, charset }: Unread): ReadText {
  return { text: decodeText(bytes.subarray(0, 4 * MAX_TEXT + 4), charset).text }
}

async function pdfDocument({ bytes }: Unread): Promise<ReadText> {
  const { text, morePages } = await pdfText(bytes, MAX_TEXT + 1)
  return { text, ...(morePages ? { cut: `only the first ${MAX_PAGES} pages are read` } : {}) }
}

function htmlDocument({ bytes, charset }: Unread): ReadText {
  return {
    text: htmlText(decodeText(bytes, charset).text)
      .segments.map(s => s.text)
      .join('\n'),
  }
}

function officeText({ bytes }: Unread): ReadText {
  let room = MAX_UNPACKED
  let parts = 0
  let left = ''
  const files = unzipSync(bytes, {
    filter: ({ name, originalSize }) => {
      if (!OFFICE_PARTS.test(name)) return false
      if (originalSize > MAX_PART || originalSize > room || ++parts > MAX_PARTS) {
        left ||= name
        return false
      }
      room -= originalSize
      return true
    },
  })
  const text = Object.keys(files)
    .sort()
    .map(name => xmlText(new TextDecoder().decode(files[name]), name.startsWith('xl/worksheets/')))
    .filter(Boolean)
    .join('\n')
  return { text, ...(left ? { cut: `${left} unpacks to more than is safe and is not read` } : {}) }
}

/**
 * Elements of office documents that stand on lines of their own; runs within one stay together, so that no word is split by a
 * change of font.
 */
const XML_BLOCKS = new Set('w:p a:p text:p text:h si is w:tr table:table-row w:br w:tab comment'.split(' '))

/** @param inlineOnly of a sheet only strings that stand in its cells are text; numbers there refer to others */
function xmlText(xml: string, inlineOnly: boolean): string {
  let out = ''
  let inside = 0
  let at = 0
  for (let open = xml.indexOf('<'); open >= 0; open = xml.indexOf('<', at)) {
    if (!inlineOnly || inside > 0) out += xml.slice(at, open)
    const close = xml.indexOf('>', open)
    if (close < 0) return decodeXml(out)
    const tag = /^<(\/?)([\w:]*)/.exec(xml.slice(open, open + 40))!
    if (tag[2] === 'is') inside += tag[1] ? -1 : xml[close - 1] === '/' ? 0 : 1
    if (XML_BLOCKS.has(tag[2]!) && !out.endsWith('\n')) out += '\n'
    at = close + 1
  }
  if (!inlineOnly) out += xml.slice(at)
  return decodeXml(out)
}

const ENTITIES: Record<string, string> = { lt: '<', gt: '>', quot: '"', apos: '\'', amp: '&' }

// XML 1.0, 4.1 and 4.6
function decodeXml(text: string): string {
  return text
    .replace(/&(?:#x([0-9a-f]{1,6})|#(\d{1,7})|(lt|gt|quot|apos|amp));/gi, (_, hex?: string, decimal?: string, name?: string) => {
      if (name) return ENTITIES[name.toLowerCase()]!
      return String.fromCodePoint(Math.min(0x10ffff, Number.parseInt(hex ?? decimal!, hex ? 16 : 10)))
    })
    .trim()
}
