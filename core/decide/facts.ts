import { entryCatches, matchesWildcard, type AttachmentKind, type AttachmentTest, type DateTest, type Fact } from '../policy'
import type { Attachment, Direction, Message } from '../message'
import type { Address } from '../address'

const DAY = 24 * 60 * 60 * 1000

/** What plain facts are about. */
interface Known {
  message: Message
  recipient: Address
  direction: Direction
  now: string
}

/** Whether a plain fact of the message is so, and how it is shown; null where it is not. A missing fact is never so. */
export function factHolds(fact: Fact, { message, recipient, direction, now }: Known): string | null {
  const { content, attempt } = message
  if ('every' in fact) return 'every message'
  if ('recipient' in fact) {
    const hit = [...content.to, ...content.cc].find(address => entryCatches(fact.recipient, { address, listId: null, client: null }))
    return hit ? hit.key : null
  }
  if ('addressed' in fact) return addressedHolds(fact.addressed, message, recipient) ? fact.addressed : null
  if ('header' in fact) return content.headers.find(h => h.name.toLowerCase() === fact.header)?.name ?? null
  if ('date' in fact) return dateHolds(fact.date, message, now)
  if ('size' in fact) return within(content.size, fact.size) ? `${content.size} bytes` : null
  if ('attachment' in fact) {
    const hit = content.attachments.find(a => attachmentHolds(fact.attachment, a))
    return hit ? hit.name || 'an attachment without a name' : null
  }
  if ('attachments' in fact) return within(content.attachments.length, fact.attachments) ? `${content.attachments.length}` : null
  if ('important' in fact) return content.important ? 'marked important' : null
  if ('mailingList' in fact) {
    if (fact.mailingList !== true) return content.list.id === fact.mailingList ? fact.mailingList : null
    const { id, unsubscribe, precedence } = content.list
    return id ?? unsubscribe[0] ?? (precedence === 'bulk' || precedence === 'list' ? precedence : null)
  }
  if ('authentication' in fact) return attempt.authentication.verdict === fact.authentication ? fact.authentication : null
  if ('direction' in fact) return direction === fact.direction ? direction : null
  if ('defect' in fact)
    return [...content.defects, ...attempt.defects].find(d => fact.defect === true || d.code === fact.defect)?.code ?? null
  return content.upstreamMark
}

function addressedHolds(how: 'to' | 'cc' | 'only me' | 'not by name', { content }: Message, recipient: Address): boolean {
  const named = (list: readonly Address[]) => list.some(a => a.keyWithoutTag === recipient.keyWithoutTag)
  switch (how) {
    case 'to':
      return named(content.to)
    case 'cc':
      return named(content.cc)
    case 'only me':
      return content.to.length + content.cc.length === 1 && named(content.to)
    case 'not by name':
      return !named(content.to) && !named(content.cc)
  }
}

function dateHolds(test: DateTest, { content, attempt }: Message, now: string): string | null {
  const date = test.of === 'sent' ? content.date : attempt.envelope.receivedAt
  if (!date) return null
  const at = Date.parse(date)
  const age = (Date.parse(now) - at) / DAY
  const holds =
    (test.before === undefined || at < Date.parse(test.before)) &&
    (test.after === undefined || at >= Date.parse(test.after)) &&
    (test.olderThan === undefined || age > test.olderThan) &&
    (test.newerThan === undefined || age < test.newerThan)
  return holds ? date : null
}

function within(value: number, bounds: { atLeast?: number, atMost?: number }): boolean {
  return value >= (bounds.atLeast ?? 0) && value <= (bounds.atMost ?? Infinity)
}

function attachmentHolds(test: AttachmentTest, attachment: Attachment): boolean {
  return (
    (test.name === undefined || namesOf(attachment).some(name => matchesWildcard(test.name!.toLowerCase(), name.toLowerCase()))) &&
    (test.type === undefined || matchesWildcard(test.type.toLowerCase(), attachment.declaredType)) &&
    (test.detected === undefined || matchesWildcard(test.detected.toLowerCase(), attachment.detectedType ?? 'none')) &&
    (test.atLeast === undefined || attachment.size >= test.atLeast) &&
    (test.kind === undefined || kindsOf(attachment).has(test.kind))
  )
}

// By the detected type and by the name, whichever says so: a program in a document's clothes is a program.
const BY_NAME: [AttachmentKind, RegExp][] = [
  ['program', /\.(?:exe|com|scr|pif|bat|cmd|ps1|vbs|vbe|js|jse|wsf|wsh|hta|msi|jar|cpl|dll|lnk|reg|apk|app|dmg|iso|img|vhd)$/i],
  ['archive', /\.(?:zip|rar|7z|gz|tgz|bz2|xz|tar|cab|ace|arj|lzh)$/i],
  ['document', /\.(?:pdf|docx?|docm|xlsx?|xlsm|pptx?|pptm|od[tsp]|rtf|txt|csv|html?)$/i],
  ['image', /\.(?:png|jpe?g|gif|webp|bmp|tiff?|svg|heic)$/i],
  ['calendar', /\.(?:ics|vcs)$/i],
  ['message', /\.(?:eml|msg)$/i],
]
const BY_TYPE: [AttachmentKind, RegExp][] = [
  [
    'program',
    /^application\/(?:x-msdownload|x-executable|x-elf|vnd\.microsoft\.portable-executable|x-mach-binary|java-archive|x-msi|x-ms-shortcut)$/,
  ],
  ['archive', /^application\/(?:zip|x-rar-compressed|vnd\.rar|x-7z-compressed|gzip|x-gzip|x-bzip2|x-xz|x-tar|vnd\.ms-cab-compressed)$/],
  ['document', /^(?:application\/(?:pdf|rtf|msword|x-cfb|vnd\.(?:openxmlformats|oasis|ms-))|text\/)/],
  ['image', /^image\//],
  ['calendar', /^text\/calendar$/],
  ['message', /^message\/rfc822$/],
]

// What lies in an archive is named as the archive is: whoever opens it has it.
function namesOf({ name, inside = [] }: Attachment): string[] {
  return [name, ...inside]
}

function kindsOf(attachment: Attachment): Set<AttachmentKind> {
  const kinds = new Set<AttachmentKind>()
  const type = attachment.detectedType ?? attachment.declaredType
  for (const [kind, pattern] of BY_TYPE) if (pattern.test(type)) kinds.add(kind)
  for (const name of namesOf(attachment)) for (const [kind, pattern] of BY_NAME) if (pattern.test(name)) kinds.add(kind)
  return kinds
}
