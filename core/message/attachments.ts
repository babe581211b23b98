import { fileTypeFromBuffer } from 'file-type/core'
import { archiveFacts } from './archives'
import { attachmentText, cutText } from './attachment-text'
import type { RawAttachment } from './bodies'
import { sha256 } from './digest'
import type { DefectList } from './structure'
import type { Attachment } from './types'

/**
 * What is known of an attachment, its text and the names inside it among it.
 * @param said what an attached message says, rendered; null for everything else
 * @param closed what must be taken apart before it can be read is left alone
 */
export async function readAttachment(raw: RawAttachment, said: string | null, closed: boolean, defects: DefectList): Promise<Attachment> {
  const detected = await detectedType(raw.bytes)
  const named = raw.name || 'an attachment'
  const { text, unreadable, cut } =
    said === null
      ? await attachmentText({ ...raw, declaredType: raw.type, detectedType: detected }, closed)
      : { ...cutText(said), unreadable: null }
  if (unreadable) defects.add('attachment not readable', `${named}: ${unreadable}`)
  if (cut) defects.add('attachment read in part', `${named}: ${cut}`)
  const archive = archiveFacts(raw.bytes, detected)
  if (archive?.locked) defects.add('locked archive', `${named} needs a password`)
  if (archive?.unread) defects.add('archive not opened', `${named}: not all names of what is inside could be read`)
  return {
    name: raw.name,
    declaredType: raw.type,
    detectedType: detected,
    size: raw.bytes.length,
    sha256: await sha256(raw.bytes),
    ...(text === null ? {} : { text }),
    ...(archive?.names.length ? { inside: archive.names } : {}),
  }
}

async function detectedType(bytes: Uint8Array): Promise<string | null> {
  try {
    return (await fileTypeFromBuffer(bytes))?.mime ?? null
  }
  catch {
    return null // cut short in the middle of a signature: its bytes say nothing
  }
}
