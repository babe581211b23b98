import { sql } from 'drizzle-orm'
import {
  bigint,
  boolean,
  check,
  customType,
  index,
  integer,
  jsonb,
  pgTable,
  primaryKey,
  real,
  smallint,
  text,
  timestamp,
  unique,
  uniqueIndex,
  uuid,
} from 'drizzle-orm/pg-core'
import type { Role } from '../access/roles'
import type { ChangeProblem, PolicyChange } from '#core/change'
import type { Why } from '#core/review'
import type { ShortReason } from '#core/words'
import { ANY_LANE, ANY_STATE, REVIEWED, sqlList } from './lanes'
import type { Claim, Content, Finding, Attempt, Verdict, Effect, EntryKind, Lane, PhraseItem, Rule, Assignment, Reason, Stop } from '#core'

const id = () => bigint({ mode: 'number' }).primaryKey().generatedAlwaysAsIdentity()
const ref = () => bigint({ mode: 'number' })
const at = () => timestamp({ withTimezone: true, mode: 'date' })
const bytea = customType<{ data: Buffer, driverData: Buffer }>({ dataType: () => 'bytea' })
const tsvector = customType<{ data: string }>({ dataType: () => 'tsvector' })

// People and what is ours

export const people = pgTable('people', {
  id: text().primaryKey(),
  name: text().notNull(),
  role: text().$type<Role>().notNull(),
  passwordHash: text(),
  /** Counted up to end every session of this person: a sealed cookie alone cannot be undone. */
  sessionEpoch: integer().notNull().default(0),
  createdAt: at().notNull().defaultNow(),
  /** Since when they are here no more: then nobody signs in as them. */
  deactivatedAt: at(),
  /** To whom their mail and their clauses were handed over. */
  successorId: text(),
  /** Counted up by every change of what is known of them: a change names the one that it saw. */
  version: integer().notNull().default(0),
})

export const addresses = pgTable(
  'addresses',
  {
    /** In the form in which addresses are compared. An office's mailbox belongs to several people. */
    address: text().notNull(),
    personId: text()
      .notNull()
      .references(() => people.id, { onDelete: 'cascade' }),
    /** As it is written. */
    shown: text().notNull(),
  },
  t => [primaryKey({ columns: [t.address, t.personId] }), index().on(t.personId)],
)

/** One-time links by which somebody chooses their own password; only the hash of a link is kept. */
export const invitations = pgTable(
  'invitations',
  {
    tokenHash: text().primaryKey(),
    personId: text()
      .notNull()
      .references(() => people.id, { onDelete: 'cascade' }),
    madeBy: text(),
    madeAt: at().notNull().defaultNow(),
    expiresAt: at().notNull(),
    usedAt: at(),
  },
  t => [index().on(t.personId)],
)

export const departments = pgTable('departments', {
  id: text().primaryKey(),
  name: text().notNull(),
  parentId: text(),
})

export const memberships = pgTable(
  'memberships',
  {
    personId: text()
      .notNull()
      .references(() => people.id, { onDelete: 'cascade' }),
    departmentId: text()
      .notNull()
      .references(() => departments.id, { onDelete: 'cascade' }),
    /** 0 is home. */
    rank: integer().notNull(),
  },
  t => [primaryKey({ columns: [t.personId, t.departmentId] })],
)

export const domains = pgTable('domains', { domain: text().primaryKey() })

export const trust = pgTable('trust', {
  id: id(),
  kind: text().$type<'relay' | 'ownNetwork'>().notNull(),
  network: text().notNull(),
  authservId: text(),
})

export const settings = pgTable('settings', { key: text().primaryKey(), value: jsonb().notNull() })

// The policy: rows with the versions between which they were active

const versioned = () => ({
  row: id(),
  id: text().notNull(),
  fromVersion: integer().notNull(),
  toVersion: integer(),
})

export const versions = pgTable('versions', {
  number: integer().primaryKey(),
  owner: text().notNull(),
  parent: integer(),
  /** What somebody, or the product, said of it; null where it says nothing but what changed. */
  note: jsonb().$type<ChangeNote>(),
  /** What it changed, in sentences; made anew where an older version of the product wrote them. */
  words: text().notNull(),
  wordsVersion: smallint().notNull(),
  by: text(),
  at: at().notNull().defaultNow(),
})

export const lists = pgTable(
  'lists',
  {
    ...versioned(),
    name: text().notNull(),
    owner: text().notNull(),
    usualSide: text().$type<'allow' | 'block'>().notNull(),
    enabled: boolean().notNull(),
  },
  t => [
    uniqueIndex('lists_current')
      .on(t.id)
      .where(sql`to_version is null`),
  ],
)

export const entries = pgTable(
  'entries',
  {
    ...versioned(),
    listId: text().notNull(),
    kind: text().$type<EntryKind>().notNull(),
    value: text().notNull(),
    note: text(),
    expires: at(),
    addedAt: at().notNull(),
    addedBy: text(),
    /** Its position in the list: the first row with this id. Null in that row itself. */
    place: bigint({ mode: 'number' }),
  },
  t => [
    uniqueIndex('entries_current')
      .on(t.id)
      .where(sql`to_version is null`),
    index('entries_in_place')
      .on(t.listId, sql`coalesce(place, "row")`)
      .where(sql`to_version is null`),
    // By which an entry that was changed, or comes back, finds its place.
    index('entries_ended_id')
      .on(t.id)
      .where(sql`to_version is not null`),
    uniqueIndex('entries_current_value')
      .on(t.listId, t.kind, t.value)
      .where(sql`to_version is null`),
    // What one version changed, among a million that it did not.
    index('entries_begun').on(t.fromVersion),
    index('entries_ended')
      .on(t.toVersion)
      .where(sql`to_version is not null`),
    // Some letters of one among a million.
    index('entries_value_letters')
      .using('gin', t.value.op('gin_trgm_ops'))
      .where(sql`to_version is null`),
    index('entries_note_letters')
      .using('gin', t.note.op('gin_trgm_ops'))
      .where(sql`to_version is null`),
  ],
)

export const assignments = pgTable(
  'assignments',
  {
    ...versioned(),
    listId: text().notNull(),
    owner: text().notNull(),
    side: text().$type<'allow' | 'block'>().notNull(),
    mandatory: boolean().notNull(),
    state: text().$type<Assignment['state']>().notNull(),
    direction: text().$type<NonNullable<Assignment['direction']>>().notNull(),
    stop: jsonb().$type<Assignment['stop']>(),
    protect: jsonb().$type<Assignment['protect']>(),
    counts: text().$type<NonNullable<Assignment['counts']>>(),
  },
  t => [
    check('assignments_state', sql`state in (${ANY_STATE})`),
    uniqueIndex('assignments_current')
      .on(t.id)
      .where(sql`to_version is null`),
    index().on(t.listId),
  ],
)

export const rules = pgTable(
  'rules',
  {
    ...versioned(),
    name: text().notNull(),
    description: text(),
    group: text(),
    owner: text().notNull(),
    mandatory: boolean().notNull(),
    overridesLists: boolean(),
    state: text().$type<Rule['state']>().notNull(),
    direction: text().$type<NonNullable<Rule['direction']>>().notNull(),
    when: jsonb().$type<Rule['when']>().notNull(),
    except: jsonb().$type<Rule['except']>().notNull(),
    claims: jsonb().$type<Claim[]>().notNull(),
    end: text().$type<NonNullable<Rule['end']>>(),
    expires: at(),
    reviewOn: at(),
    /** Rules of one owner stand in this order. */
    rank: integer().notNull(),
  },
  t => [
    check('rules_state', sql`state in (${ANY_STATE})`),
    uniqueIndex('rules_current')
      .on(t.id)
      .where(sql`to_version is null`),
  ],
)

export const phraseSets = pgTable(
  'phrase_sets',
  {
    ...versioned(),
    name: text().notNull(),
    owner: text().notNull(),
    phrases: jsonb().$type<PhraseItem[]>().notNull(),
    minimum: real(),
  },
  t => [
    uniqueIndex('phrase_sets_current')
      .on(t.id)
      .where(sql`to_version is null`),
  ],
)

export const quarantines = pgTable(
  'quarantines',
  {
    ...versioned(),
    name: text().notNull(),
    general: boolean().notNull(),
  },
  t => [
    uniqueIndex('quarantines_current')
      .on(t.id)
      .where(sql`to_version is null`),
  ],
)

export const thresholds = pgTable(
  'thresholds',
  {
    ...versioned(),
    at: real().notNull(),
    stop: jsonb().$type<Stop>().notNull(),
  },
  t => [
    uniqueIndex('thresholds_current')
      .on(t.id)
      .where(sql`to_version is null`),
  ],
)

/** What is said of a change besides what it changed. */
export type ChangeNote =
  | { kind: 'text', text: string }
  /** A user was deactivated, and this was their successor. */
  | { kind: 'handedOver', from: string, to: string }
  /** That was undone. */
  | { kind: 'handedBack', to: string }
  /** The mail that a clause had stopped was returned. */
  | { kind: 'returnedMail', clause: 'rule' | 'list', name: string }
  | { kind: 'removedQuarantine', name: string, to: string }

// Mail

export const messages = pgTable(
  'messages',
  {
    id: id(),
    contentHash: text().notNull().unique(),
    messageId: text(),
    subject: text().notNull(),
    size: integer().notNull(),
    parser: smallint().notNull(),
    facts: jsonb().$type<Content>().notNull(),
    /** The facts say all that the bytes say: nothing was cut, nothing replaced. Otherwise whoever decides reads the source. */
    whole: boolean().notNull().default(false),
    senderKeys: text().array().notNull(),
    listId: text(),
    /** The words of subject, sender, attachment names and text (see `WordCollector`), capped: a tsvector holds under 1 MiB. */
    search: tsvector().notNull(),
    /** How they were cut; 0 is by the database, which cuts otherwise. */
    searchVersion: smallint().notNull(),
    createdAt: at().notNull().defaultNow(),
  },
  t => [
    // What an older parser read is read anew, bit by bit.
    index('messages_by_parser').on(t.parser, t.id),
    index('messages_search').using('gin', t.search),
    index('messages_sender_keys').using('gin', t.senderKeys),
    // What an impact has to look through, since its words were cut otherwise.
    index('messages_by_search_version').on(t.searchVersion, t.id),
    // Among them those of which only a record is left.
    index('messages_not_whole')
      .on(t.id)
      .where(sql`not whole`),
    index().on(t.messageId),
    index('messages_by_list')
      .on(t.listId)
      .where(sql`list_id is not null`),
  ],
)

export const sources = pgTable('sources', {
  messageId: ref()
    .primaryKey()
    .references(() => messages.id, { onDelete: 'cascade' }),
  raw: bytea().notNull(),
})

/** The HTML of messages that were opened, made harmless; null where there is none that can be shown. */
export const openedHtml = pgTable('opened_html', {
  messageId: ref()
    .primaryKey()
    .references(() => messages.id, { onDelete: 'cascade' }),
  /** The parser that found it. */
  parser: smallint().notNull(),
  html: text(),
})

export const attempts = pgTable(
  'attempts',
  {
    id: id(),
    /** The same for every recipient of one handing-over. */
    transaction: uuid().notNull(),
    at: at().notNull(),
    client: text(),
    helo: text(),
    mailFrom: text(),
    rcptTo: text(),
    tls: boolean().notNull(),
    source: text().$type<'smtp' | 'import' | 'demo'>().notNull(),
    authentication: jsonb().$type<Attempt['authentication']>(),
    direction: text(),
    /** The first hop outside our relays; empty where it is not known, null on rows of before it was kept. */
    firstHop: text(),
    /** Who had signed in, or null. */
    signedIn: text(),
    defects: jsonb().$type<Attempt['defects']>(),
    replyCode: smallint().notNull(),
    reply: text().notNull(),
    messageId: ref().references(() => messages.id),
  },
  t => [
    index().on(t.at),
    index().on(t.rcptTo, t.at),
    index().on(t.mailFrom, t.at),
    // The domain written backwards: what lies below it begins with it.
    index('attempts_by_envelope_domain').on(sql`reverse(lower(split_part(mail_from, '@', -1))) text_pattern_ops`),
    index('attempts_not_ascii')
      .on(t.id)
      .where(sql`mail_from ~ '[^\\x01-\\x7f]'`),
  ],
)

const IS_REVIEWED = sql`lane in (${REVIEWED})`

export const copies = pgTable(
  'copies',
  {
    id: id(),
    messageId: ref()
      .notNull()
      .references(() => messages.id),
    attemptId: ref()
      .notNull()
      .references(() => attempts.id),
    recipient: text().notNull(),
    personId: text().references(() => people.id, { onDelete: 'set null' }),
    /** The address, where it belongs to several people: the copy is theirs together, and no one person's. */
    mailbox: text(),
    lane: text().$type<Lane>().notNull(),
    quarantineId: text(),
    /** Of a copy that is not here any more: it was erased, and not discarded at the door. */
    erased: boolean().notNull().default(false),
    /** Of the inbox. */
    folder: text(),
    /** Delivered, and out of the inbox. */
    filed: boolean().notNull().default(false),
    /** A clause refused it, and the message was accepted for another recipient. */
    notRefused: boolean().notNull().default(false),
    laneSince: at().notNull(),
    receivedAt: at().notNull(),
    decisionId: ref(),
    /** What people said or implied; null is not marked. */
    judgement: text().$type<'wanted' | 'unwanted'>(),
    judgementStrength: text().$type<'said' | 'implied'>(),
    /** Who moved it last, if the lane is no longer the decision's. */
    movedBy: text(),
    firstOpenedAt: at(),
    tags: text()
      .array()
      .notNull()
      .default(sql`'{}'`),
    important: boolean().notNull().default(false),
    senderAddress: text().notNull(),
    /** What authentication says of that address; `none` also where From names no one sender. */
    verdict: text().$type<Verdict>().notNull().default('none'),
    /** By whom it is grouped in Review: mail that is not verified, apart from its sender's own. */
    reviewSender: text()
      .notNull()
      .generatedAlwaysAs(
        sql`case sender_address when '' then '' else case verdict when 'pass' then 'verified ' else 'notVerified ' end || sender_address end`,
      ),
    senderDomain: text().notNull(),
    senderName: text().notNull(),
    subject: text().notNull(),
    /** For its review: what put it there, what its subject is compared by, how likely it is a mistake, and why that is said. */
    reviewClause: text(),
    reviewSubject: text(),
    likely: smallint().notNull().default(0),
    likelyWhy: jsonb().$type<Why[]>(),
    /** Null until that is worked out, and again by a trigger whenever what it follows from changes. */
    rankedAt: at(),
    /** Why it is where it is: of the decision that counts, or why it was deleted. */
    reason: jsonb().$type<ShortReason>().notNull(),
    /** Counted up by every change to the copy. */
    version: integer().notNull().default(1),
  },
  t => [
    unique('copies_once').on(t.messageId, t.recipient),
    check('copies_lane', sql`lane in (${ANY_LANE})`),
    check('copies_verdict', sql`verdict in ('pass', 'fail', 'none', 'temperror')`),
    index('copies_by_attempt').on(t.attemptId),
    index('copies_by_time').on(t.receivedAt.desc(), t.id.desc()),
    index('copies_by_recipient').on(t.personId, t.receivedAt.desc(), t.id.desc()),
    index('copies_by_mailbox')
      .on(t.mailbox, t.receivedAt.desc(), t.id.desc())
      .where(sql`mailbox is not null`),
    index('copies_by_lane').on(t.lane, t.quarantineId, t.receivedAt.desc(), t.id.desc()),
    index('copies_by_sender').on(t.senderAddress, t.receivedAt.desc()),
    index('copies_by_sender_domain').on(t.senderDomain, t.receivedAt.desc()),
    index('copies_tags').using('gin', t.tags),
    index('copies_tagged')
      .on(t.personId)
      .where(sql`tags <> '{}'`),
    index('copies_by_folder')
      .on(t.folder, t.receivedAt.desc())
      .where(sql`folder is not null`),
    // One index a grouping of a review, each in the order in which it is gone through.
    index('copies_review_by_clause')
      .on(t.lane, t.quarantineId, t.reviewClause, t.likely.desc(), t.id.desc())
      .where(IS_REVIEWED),
    index('copies_review_by_sender')
      .on(t.lane, t.quarantineId, t.reviewSender, t.likely.desc(), t.id.desc())
      .where(IS_REVIEWED),
    index('copies_review_by_subject')
      .on(t.lane, t.quarantineId, t.reviewSubject, t.likely.desc(), t.id.desc())
      .where(IS_REVIEWED),
    index('copies_not_ranked')
      .on(t.id)
      .where(sql`ranked_at is null and ${IS_REVIEWED}`),
    // What leaves soon.
    index('copies_lane_since')
      .on(t.lane, t.laneSince)
      .where(IS_REVIEWED),
    // Part of an address or a name.
    index('copies_sender_letters').using('gin', sql`(sender_address || ' ' || sender_name) gin_trgm_ops`),
  ],
)

export const decisions = pgTable(
  'decisions',
  {
    id: id(),
    copyId: ref()
      .notNull()
      .references(() => copies.id, { onDelete: 'cascade' }),
    sequence: integer().notNull(),
    policyVersion: integer().notNull(),
    decidedLane: text().notNull(),
    finalLane: text().notNull(),
    quarantineId: text(),
    effects: jsonb().$type<Effect[]>().notNull(),
    reasons: jsonb().$type<Reason[]>().notNull(),
    decidedBy: integer(),
    at: at().notNull(),
  },
  t => [
    unique('decisions_sequence').on(t.copyId, t.sequence),
    check('decisions_lanes', sql`decided_lane in (${ANY_LANE}) and final_lane in (${ANY_LANE})`),
  ],
)

export const decisionClaims = pgTable(
  'decision_claims',
  {
    decisionId: ref()
      .notNull()
      .references(() => decisions.id, { onDelete: 'cascade' }),
    copyId: ref().notNull(),
    clauseKind: text().$type<'list' | 'rule' | 'score' | 'learned'>().notNull(),
    clauseId: text().notNull(),
    listId: text(),
    entryId: text(),
    outcome: text().notNull(),
  },
  t => [index().on(t.decisionId), index().on(t.clauseId, t.copyId), index().on(t.entryId, t.copyId), index().on(t.listId, t.copyId)],
)

/** What counts attempts to sign in, for all processes together. */
export const rateLimits = pgTable('rate_limits', {
  key: text().primaryKey(),
  points: integer().notNull(),
  /** Milliseconds since 1970. */
  expire: bigint({ mode: 'number' }),
})

// What people did

export const auditEvents = pgTable(
  'audit_events',
  {
    id: id(),
    at: at().notNull().defaultNow(),
    personId: text(),
    kind: text().notNull(),
    detail: jsonb().$type<Record<string, unknown>>().notNull(),
    /** The act that this one undoes. */
    undoes: ref(),
  },
  t => [
    index().on(t.at),
    index().on(t.personId, t.at),
    uniqueIndex('audit_events_undone_once')
      .on(t.undoes)
      .where(sql`undoes is not null`),
  ],
)

/** A copy that a change of the policy leaves where it is, since another clause stops it: where that sends it, and why. */
export interface StayedCopy {
  copy: number
  lane: Lane
  quarantine: string | null
  reason: Reason | null
}

/** What of a copy an event can change. */
export interface CopyState {
  lane: (typeof copies.$inferSelect)['lane']
  quarantineId: string | null
  folder: string | null
  filed: boolean
  laneSince: string
  movedBy: string | null
  /** What a release settles anew besides. */
  decisionId?: number | null
  tags?: string[]
  important?: boolean
  subject?: string
  reason?: ShortReason
}

export const auditEventItems = pgTable(
  'audit_event_items',
  {
    eventId: ref()
      .notNull()
      .references(() => auditEvents.id, { onDelete: 'cascade' }),
    copyId: ref().notNull(),
    before: jsonb().$type<CopyState | null>(),
    after: jsonb().$type<CopyState | null>(),
  },
  t => [primaryKey({ columns: [t.eventId, t.copyId] }), index().on(t.copyId)],
)

/** Rules and lists of which somebody has read that they began to stop mail that they open. */
export const toldClauses = pgTable(
  'told_clauses',
  {
    personId: text()
      .notNull()
      .references(() => people.id, { onDelete: 'cascade' }),
    clauseId: text().notNull(),
    at: at().notNull().defaultNow(),
  },
  t => [primaryKey({ columns: [t.personId, t.clauseId] })],
)

/** The copies that went to others when a user was deactivated, for as long as that can be undone. */
export const transferredCopies = pgTable(
  'transferred_copies',
  {
    eventId: ref()
      .notNull()
      .references(() => auditEvents.id, { onDelete: 'cascade' }),
    copyId: ref()
      .notNull()
      .references(() => copies.id, { onDelete: 'cascade' }),
    toId: text().notNull(),
  },
  t => [primaryKey({ columns: [t.eventId, t.copyId] }), index().on(t.copyId)],
)

export const judgements = pgTable(
  'judgements',
  {
    id: id(),
    copyId: ref()
      .notNull()
      .references(() => copies.id, { onDelete: 'cascade' }),
    personId: text(),
    value: text().$type<'wanted' | 'unwanted'>().notNull(),
    strength: text().$type<'said' | 'implied'>().notNull(),
    eventId: ref().notNull(),
    /** The act that withdrew it, or null while it stands. */
    withdrawalEventId: ref(),
    at: at().notNull().defaultNow(),
  },
  t => [index().on(t.copyId), index().on(t.eventId)],
)

/** `needsConfirmation`: it found that somebody has to see something first, and did nothing. */
export const JOB_STATES = ['waiting', 'running', 'done', 'failed', 'cancelled', 'needsConfirmation'] as const
export type JobState = (typeof JOB_STATES)[number]

/** What a job that saves a change came to. A problem is one as in RFC 9457; an impact in it names copies by their ids. */
export type JobResult =
  | { saved: { version: number, eventId: number | null, job: number | null } }
  | { problem: JobProblem }

interface JobProblem {
  status: number
  title: string
  detail: string
  type: string
  fields: Record<string, string>
  more: Record<string, unknown>
}

/** Long work: how far it is, by whom it was asked for, and what it did. The queue itself is graphile-worker's. */
export const jobs = pgTable(
  'jobs',
  {
    id: id(),
    kind: text().notNull(),
    /** Of what there is one at a time: a second one that is asked for is the first. */
    key: text(),
    state: text().$type<JobState>().notNull().default('waiting'),
    payload: jsonb().$type<Record<string, unknown>>().notNull(),
    /** Where it goes on after it was interrupted; written together with what it has done. */
    cursor: jsonb().$type<Record<string, unknown> | null>(),
    done: integer().notNull().default(0),
    /** Null while that is not known. */
    total: integer(),
    moved: integer().notNull().default(0),
    /** The act that it is part of, and by which it is undone. */
    eventId: ref(),
    personId: text(),
    /** Somebody asked it to stop. */
    stopping: boolean().notNull().default(false),
    error: text(),
    /** What it came to, for who asked for it: of a change, what was saved, or why it was not. */
    result: jsonb().$type<JobResult>(),
    createdAt: at().notNull().defaultNow(),
    startedAt: at(),
    endedAt: at(),
  },
  t => [
    index().on(t.personId, t.id),
    index().on(t.eventId),
    check('jobs_state', sql`state in (${sqlList(JOB_STATES)})`),
    uniqueIndex('jobs_one_at_a_time')
      .on(t.kind, t.key)
      .where(sql`state in ('waiting', 'running')`),
  ],
)

export const PROPOSAL_STATES = ['open', 'accepted', 'declined', 'withdrawn'] as const
export type ProposalState = (typeof PROPOSAL_STATES)[number]

/** Changes that somebody would have made, and may not make: until whoever may has answered. */
export const proposals = pgTable(
  'proposals',
  {
    id: id(),
    at: at().notNull().defaultNow(),
    personId: text().notNull(),
    /** The version on which they were made. */
    base: integer().notNull(),
    changes: jsonb().$type<PolicyChange[]>().notNull(),
    /** Letters of the changes as JSON. */
    size: integer().notNull().default(0),
    /** The version against which it was last seen whether they can still be made; null where that is to be seen anew. */
    checkedVersion: integer(),
    /** What they touch was changed since. */
    stale: boolean().notNull().default(false),
    /** Why they cannot be made, where they cannot. */
    problems: jsonb().$type<ChangeProblem[]>(),
    /** What they say, in sentences; made anew where those of an older version of the product are kept. */
    words: text().notNull(),
    wordsVersion: smallint().notNull(),
    note: text().notNull(),
    /** The mail that they are about. */
    copyIds: jsonb().$type<number[]>().notNull(),
    state: text().$type<ProposalState>().notNull().default('open'),
    answeredBy: text(),
    answeredAt: at(),
    reason: text(),
    /** The act by which they were proposed, and the one by which they are active. */
    proposalEventId: ref(),
    eventId: ref(),
    /** Whoever proposed them has read the answer. */
    seenAt: at(),
  },
  t => [
    check('proposals_state', sql`state in (${sqlList(PROPOSAL_STATES)})`),
    index('proposals_open')
      .on(t.id)
      .where(sql`state = 'open'`),
    index('proposals_by_person').on(t.personId, t.id),
    index('proposals_by_event').on(t.eventId),
  ],
)

/** What is settled of a quarantine besides its name; one that has none here goes by what stands for all. */
export const quarantineSettings = pgTable('quarantine_settings', {
  quarantineId: text().primaryKey(),
  deputyId: text().references(() => people.id, { onDelete: 'set null' }),
  /** What has waited for so many days is dealt with by itself; null is never. */
  waitDays: integer(),
  afterWait: text().$type<AfterWait>().notNull().default('bin'),
  /** Its recipients see what is held, are told of it, may ask for it, may release it themselves. */
  visible: boolean().notNull().default(true),
  notified: boolean().notNull().default(true),
  canRequest: boolean().notNull().default(true),
  canRelease: boolean().notNull().default(false),
  /** Counted up by every change of them. */
  version: integer().notNull().default(0),
})
export type AfterWait = 'bin' | 'release'

/** Who reviews a quarantine. Of one that names nobody, and of the general one, all do who may. */
export const quarantineReviewers = pgTable(
  'quarantine_reviewers',
  {
    quarantineId: text().notNull(),
    personId: text()
      .notNull()
      .references(() => people.id, { onDelete: 'cascade' }),
  },
  t => [primaryKey({ columns: [t.quarantineId, t.personId] }), index().on(t.personId)],
)

export const REQUEST_STATES = ['open', 'released', 'declined', 'withdrawn'] as const
export type RequestState = (typeof REQUEST_STATES)[number]

/** Readers who asked for held mail, and the answers. */
export const releaseRequests = pgTable(
  'release_requests',
  {
    id: id(),
    copyId: ref()
      .notNull()
      .references(() => copies.id, { onDelete: 'cascade' }),
    personId: text().notNull(),
    at: at().notNull().defaultNow(),
    note: text().notNull(),
    state: text().$type<RequestState>().notNull().default('open'),
    answeredBy: text(),
    answeredAt: at(),
    /** Why not. */
    reason: text(),
    /** The act by which it was asked, and the one that answered it. */
    requestEventId: ref(),
    eventId: ref(),
    /** Whoever asked has read the answer. */
    seenAt: at(),
  },
  t => [
    check('release_requests_state', sql`state in (${sqlList(REQUEST_STATES)})`),
    uniqueIndex('release_requests_open')
      .on(t.copyId, t.personId)
      .where(sql`state = 'open'`),
    index('release_requests_by_person').on(t.personId, t.id),
    index('release_requests_by_event').on(t.eventId),
  ],
)

/** What the checks found, by version; the newest is read. */
export const findings = pgTable('findings', {
  version: integer().primaryKey(),
  at: at().notNull(),
  found: jsonb().$type<Finding[]>().notNull(),
})

/** What the demo's generator knows of its own mail; never read by anything that decides. */
export const demoTruth = pgTable('demo_truth', {
  copyId: ref()
    .primaryKey()
    .references(() => copies.id, { onDelete: 'cascade' }),
  wanted: boolean().notNull(),
  kind: text().notNull(),
})
