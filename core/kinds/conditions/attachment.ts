import type { Attachment } from '../../message'
import { capitalised, sizeWords } from '../../wording'
import { matchesWildcard } from '../wildcard'
import { withVisibleControls } from '../controls'
import { conditionKind } from './kind'

export const ATTACHMENT_KINDS = ['program', 'archive', 'document', 'image', 'calendar', 'message'] as const
export type AttachmentKind = (typeof ATTACHMENT_KINDS)[number]

const KIND_WORDS: Record<AttachmentKind, string> = {
  program: 'an executable attachment',
  archive: 'an archive attached',
  document: 'a document attached',
  image: 'an image attached',
  calendar: 'a calendar file attached',
  message: 'a message attached',
}

/** What an attachment must be; all that is said must hold for the same attachment. */
export interface AttachmentTest {
  /** Pattern over the name, with * and ?. */
  name?: string
  /** Kind by detected type, else by name. */
  kind?: AttachmentKind
  /** Pattern over the declared MIME type. */
  type?: string
  /** Pattern over the detected MIME type; "none" where its bytes say nothing. */
  detected?: string
  /** Bytes. */
  atLeast?: number
}

export const attachment = conditionKind({
  name: 'attachment',
  label: 'an attachment',
  schema: ({ Joi }) => {
    const wildcard = Joi.string().min(1).max(200)
    return Joi.object({
      name: wildcard,
      kind: Joi.string().valid(...ATTACHMENT_KINDS),
      type: wildcard,
      detected: wildcard,
      atLeast: Joi.number().integer().min(0),
    }).min(1)
  },
  holds: ({ message: { content } }, test: AttachmentTest) => {
    const hit = content.attachments.find(a => isSo(test, a))
    return hit ? hit.name || 'an attachment without a name' : null
  },
  prefilter: { by: () => 'any', opened: ({ content }) => (content.attachments.length ? ['any'] : []) },
  words: (a) => {
    const what = a.kind ? KIND_WORDS[a.kind] : 'an attachment'
    const parts = [
      ...(a.name === undefined ? [] : [`named ${a.name}`]),
      ...(a.type === undefined ? [] : [`declared as ${a.type}`]),
      ...(a.detected === undefined ? [] : [a.detected === 'none' ? 'of unknown type' : `detected as ${a.detected}`]),
      ...(a.atLeast === undefined ? [] : [`of ${sizeWords(a.atLeast)} or more`]),
    ]
    return `it has ${[what, ...parts].join(' ')}`
  },
  found: shown => `the attachment ${withVisibleControls(shown)}`,
  blank: { kind: 'program' } as AttachmentTest,
  title: ({ kind }) => (kind ? capitalised(KIND_WORDS[kind]) : 'Attachments'),
  field: 'AttachmentFields',
})

function isSo(test: AttachmentTest, attachment: Attachment): boolean {
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
