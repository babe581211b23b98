import PostalMime from 'postal-mime'
import { decodeBase64, decodeCharset, decodeQuotedPrintable, latin1 } from './bytes'
import { decodeSafely } from './encoded-words'
import { DefectList, readParameters, scanStructure, type Structure } from './structure'

export interface RawAttachment {
  name: string
  type: string
  bytes: Uint8Array
}

export interface Bodies {
  html: string | null
  text: string | null
  attachments: RawAttachment[]
}

/**
 * The bodies of a message by the MIME package; where that gives up at its limits, by the structure found in our own
 * scan, so that no message escapes its rules by being malformed.
 */
export async function readBodies(bytes: Uint8Array, structure: Structure, defects: DefectList): Promise<Bodies> {
  try {
    const email = await PostalMime.parse(bytes, { maxNestingDepth: 60, attachmentEncoding: 'arraybuffer' })
    return {
      html: email.html ?? null,
      text: email.text ?? null,
      attachments: email.attachments.map(a => ({
        name: a.filename ?? '',
        type: a.mimeType,
        bytes: typeof a.content === 'string' ? new TextEncoder().encode(a.content) : new Uint8Array(a.content),
      })),
    }
  }
  catch (error) {
    defects.add('body not fully readable', error instanceof Error ? error.message : String(error))
    return bodiesFromScan(bytes, structure, defects)
  }
}

function bodiesFromScan(bytes: Uint8Array, structure: Structure, defects: DefectList): Bodies {
  const texts: string[] = []
  const htmls: string[] = []
  const attachments: RawAttachment[] = []
  for (const part of structure.parts) {
    if (part.multipart) continue
    const body = transferDecoded(bytes.subarray(part.bodyStart, part.bodyEnd), part.encoding)
    const disposition = readParameters(part.fields.find(f => f.name.toLowerCase() === 'content-disposition')?.value ?? '')
    if (disposition.value !== 'attachment' && (part.type === 'text/plain' || part.type === 'text/html' || part.type.startsWith('multipart/'))) {
      const text = decodeCharset(body, part.params.charset ?? 'utf-8')
      if (text === null) defects.add('unknown character set', part.params.charset ?? '')
      ;(part.type === 'text/html' ? htmls : texts).push(text ?? latin1(body))
    }
    else {
      attachments.push({ name: decodeSafely(disposition.params.filename ?? part.params.name ?? ''), type: part.type, bytes: body })
    }
  }
  return { html: htmls.length ? htmls.join('\n') : null, text: texts.length ? texts.join('\n') : null, attachments }
}

function transferDecoded(body: Uint8Array, encoding: string): Uint8Array {
  if (encoding === 'base64') return decodeBase64(latin1(body))
  if (encoding === 'quoted-printable') return decodeQuotedPrintable(latin1(body))
  return body
}

/** The HTML body as sent, or null where there is none. Not safe to show. */
export async function htmlBody(bytes: Uint8Array): Promise<string | null> {
  return (await readBodies(bytes, scanStructure(bytes), new DefectList())).html
}
