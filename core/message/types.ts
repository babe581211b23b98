import type { Address } from '../address'

/** Counted up whenever the facts of a message may come out differently; stored beside them. */
export const PARSER_VERSION = 5

/** Where a piece of text stands in a message. */
export const TEXT_PLACES = [
  'subject',
  'own',
  'quoted',
  'hidden',
  'sender name',
  'header',
  'link',
  'attachment name',
  'attachment text',
] as const
export type TextPlace = (typeof TEXT_PLACES)[number]

/** A run of text in one place. Offsets in reasons are UTF-16 units in `text`. */
export interface Segment {
  place: TextPlace
  text: string
}

/** One header field, in the order of the message. */
export interface HeaderField {
  name: string
  /** The value as it stands in the message, unfolded. */
  raw: string
  /** The value with encoded words decoded (RFC 2047). */
  value: string
}

export const DEFECT_CODES = [
  'two From fields',
  'no From',
  'several mailboxes in From',
  'unreadable From',
  'two Subject fields',
  'two Date fields',
  'two Message-ID fields',
  'two To fields',
  'no Date',
  'unreadable Date',
  'Date without a zone',
  'no Message-ID',
  'line without a field name',
  'too many header fields',
  'two Content-Type fields',
  'unreadable Content-Type',
  'boundary missing',
  'boundary never seen',
  'boundary never closes',
  'parts after the end',
  'nested too deep',
  'body cut short',
  'body not fully readable',
  'read in part',
  'read by its header alone',
  'unknown character set',
  'unknown transfer encoding',
  'NUL bytes',
  'empty message',
  'too many links',
  'attachment not readable',
  'attachment read in part',
  'locked archive',
  'archive not opened',
  'winmail.dat',
  'opaque S/MIME',
  'encrypted message',
  'claims own domain',
] as const
export type DefectCode = (typeof DEFECT_CODES)[number]

/** Something that is wrong with a message; it is decided all the same. */
export interface Defect {
  code: DefectCode
  detail: string
}

export interface Link {
  target: string
  text: string
}

export interface Attachment {
  name: string
  declaredType: string
  /** By its first bytes; null where they say nothing. */
  detectedType: string | null
  /** Bytes after the transfer encoding is taken off. */
  size: number
  /** Lower-case hexadecimal. */
  sha256: string
  /** What it says, where its type has any text that can be read. */
  text?: string
  /** Names of the files in it, where it is an archive. */
  inside?: string[]
}

export interface ListIdentity {
  /** List-Id without angle brackets, lower case (RFC 2919); null if there is none. */
  id: string | null
  /** URIs of List-Unsubscribe (RFC 2369). */
  unsubscribe: string[]
  /** One-click leaving is offered (RFC 8058). */
  oneClick: boolean
  /** Precedence, lower case (common practice, no standard). */
  precedence: string | null
  /** Auto-Submitted keyword, lower case (RFC 3834). */
  autoSubmitted: string | null
}

/** What the bytes alone say. */
export interface Content {
  parser: number
  /** SHA-256 of the bytes as received, lower-case hexadecimal. */
  hash: string
  size: number
  messageId: string | null
  /** The Date field as an ISO 8601 instant, or null. */
  date: string | null
  from: Address[]
  /** How many From fields there are; a sender counts as verified only with exactly one. */
  fromFields: number
  sender: Address | null
  replyTo: Address[]
  to: Address[]
  cc: Address[]
  subject: string
  segments: Segment[]
  headers: HeaderField[]
  list: ListIdentity
  links: Link[]
  attachments: Attachment[]
  important: boolean
  defects: Defect[]
}

/** How the message was handed over. */
export interface Envelope {
  /** MAIL FROM without angle brackets; empty for the null sender, null where there was no envelope (a file). */
  mailFrom: string | null
  /** RCPT TO addresses. */
  rcptTo: string[]
  /** Address of the connecting client, or null where there was none (a file). */
  client: string | null
  helo: string | null
  tls: boolean
  /** The signed-in user, or null. */
  user: string | null
  /** ISO 8601 instant. */
  receivedAt: string
}

/** A relay of ours whose word about authentication counts. */
export interface Relay {
  /** CIDR network or single address from which it connects. */
  network: string
  /** The authserv-id that it writes (RFC 8601 2.5). */
  authservId: string
}

/** How a system before ours marks what it takes for unwanted: a header field, or words before the subject. Case is ignored. */
export type UpstreamVerdict = { id: string, name: string } & (
  | {
    /** Name of the field, lower case. */
    header: string
    /** Its whole text, with * and ? for others; any, unless said. */
    text?: string
  }
  | { before: string }
)

export interface Trust {
  ownDomains: string[]
  relays: Relay[]
  /** Networks whose mail is outbound or internal. */
  ownNetworks: string[]
  /** Domains at which anybody can have a mailbox; the checks warn of trusting them unverified. */
  publicProviders?: string[]
  /** The marks of upstream systems that we believe. */
  upstreamVerdicts?: UpstreamVerdict[]
  /** Senders are verified here, by SPF, DKIM and DMARC, where no trusted relay says what it found. */
  ownVerification?: boolean
}

/** What authentication says of the From domain. temperror: it could not be checked at that time; it speaks for no sender. */
export const VERDICTS = ['pass', 'fail', 'none', 'temperror'] as const
export type Verdict = (typeof VERDICTS)[number]
export type Direction = 'inbound' | 'outbound' | 'internal'

/** What a method can end with (RFC 8601 2.7). */
export const METHOD_RESULTS = ['none', 'pass', 'fail', 'softfail', 'neutral', 'policy', 'temperror', 'permerror'] as const
export type MethodResult = (typeof METHOD_RESULTS)[number]

export const METHODS = ['spf', 'dkim', 'dmarc'] as const
export type Method = (typeof METHODS)[number]

export interface SpfFound {
  result: MethodResult
  /** That of MAIL FROM, or of HELO where MAIL FROM is empty (RFC 7208 2.4); null where there is neither. */
  domain: string | null
  reason?: string
}

export interface SignatureFound {
  /** d=, as A-labels. */
  domain: string
  /** s= */
  selector: string
  result: MethodResult
  /** Its registrable domain is that of From (RFC 7489 3.1.1, relaxed). */
  aligned: boolean
  reason?: string
}

/** What a domain asks of receivers for mail that fails DMARC. */
export const DMARC_POLICIES = ['none', 'quarantine', 'reject'] as const
export type DmarcPolicy = (typeof DMARC_POLICIES)[number]

export interface DmarcFound {
  result: MethodResult
  /** Of From; null where there is not exactly one. */
  domain: string | null
  /** Null where no policy was found. */
  policy: DmarcPolicy | null
  reason?: string
}

/** What the newest sealer says that it found before it changed the message: evidence, on which nothing rests (RFC 8617 7.2). */
export interface ArcFound {
  result: MethodResult
  /** d= of the newest seal. */
  domain?: string
  /** Its Authentication-Results, cut. */
  said?: string
  reason?: string
}

/** What was found about a sender, method by method. */
export interface MethodsFound {
  spf: SpfFound
  dkim: SignatureFound[]
  dmarc: DmarcFound
  arc: ArcFound
}

export interface Authentication {
  verdict: Verdict
  /** What the verdict rests on: "dmarc", "dkim", "spf"; empty for none. */
  by: string
  /** The authserv-id that said so; null where it was verified here, or nothing was said. */
  saidBy: string | null
  /** Method by method; left out where nothing was said or verified, and of attempts that an older version kept. */
  found?: MethodsFound
}

/** What this handing-over says, apart from the bytes. */
export interface Attempt {
  envelope: Envelope
  envelopeSender: Address | null
  /** First hop outside our relays; null if unknown. */
  client: string | null
  authentication: Authentication
  direction: Direction
  defects: Defect[]
}

export interface Message {
  content: Content
  attempt: Attempt
}
