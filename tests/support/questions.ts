// What the tests ask the database, and what they put there, by name. No other file of the tests names a table or a column, but for
// the fixtures of older versions.
import { and, asc, count, desc, eq, exists, gte, ilike, inArray, isNotNull, isNull, like, ne, notInArray, or, sql } from 'drizzle-orm'
import type { SQL } from 'drizzle-orm'
import { drizzle } from 'drizzle-orm/node-postgres'
import type pg from 'pg'
import type { PolicyChange } from '#core/change'
import { LOCK_NUMBERS } from '../../server/db/lock-numbers'
import * as schema from '../../server/db/schema'

const { auditEventItems, auditEvents, addresses, attempts, assignments, copies, departments, entries, invitations, jobs, lists } = schema
const { memberships, messages, openedHtml, people, proposals, rateLimits, releaseRequests } = schema
const { rules, decisionClaims, decisions, settings, sources, versions } = schema

export type Copy = typeof copies.$inferSelect

/** Which copies; what is left out does not matter. */
export interface CopyFilter {
  ids?: readonly number[]
  lane?: Copy['lane']
  lanes?: readonly Copy['lane'][]
  notLane?: Copy['lane']
  quarantine?: string
  subject?: string
  subjects?: readonly string[]
  /** Part of the subject. */
  about?: string
  person?: string
  /** Everybody else's, and what belongs to several people. */
  notPerson?: string
  sender?: string
  /** End of the sender's domain. */
  senderBelow?: string
  /** What its deciding reason names. */
  decidedBy?: string
  judgement?: Copy['judgement']
  isMarked?: boolean
  strength?: Copy['judgementStrength']
  isMovedByHand?: boolean
  isRanked?: boolean
  /** Touched by an event. */
  eventId?: number
}

const asked = <T>(value: T | undefined, condition: (value: T) => SQL | undefined) => (value === undefined ? undefined : condition(value))
const isSet = (column: Parameters<typeof isNull>[0]) => (yes: boolean) => (yes ? isNotNull(column) : isNull(column))

const matching = (f: CopyFilter): SQL | undefined => and(
  asked(f.ids, ids => inArray(copies.id, [...ids])),
  asked(f.lane, lane => eq(copies.lane, lane)),
  asked(f.lanes, lanes => inArray(copies.lane, [...lanes])),
  asked(f.notLane, lane => ne(copies.lane, lane)),
  asked(f.quarantine, id => eq(copies.quarantineId, id)),
  asked(f.subject, subject => eq(copies.subject, subject)),
  asked(f.subjects, subjects => inArray(copies.subject, [...subjects])),
  asked(f.about, part => like(copies.subject, `%${part}%`)),
  asked(f.person, id => eq(copies.personId, id)),
  asked(f.notPerson, id => or(ne(copies.personId, id), isNull(copies.personId))),
  asked(f.sender, address => eq(copies.senderAddress, address)),
  asked(f.senderBelow, end => like(copies.senderDomain, `%.${end}`)),
  asked(f.decidedBy, name => sql`${copies.reason} #>> '{clause,name}' = ${name} and (${copies.reason} ->> 'decided')::boolean`),
  asked(f.judgement, judgement => (judgement === null ? isNull(copies.judgement) : eq(copies.judgement, judgement))),
  asked(f.isMarked, isSet(copies.judgement)),
  asked(f.strength, strength => (strength === null ? isNull(copies.judgementStrength) : eq(copies.judgementStrength, strength))),
  asked(f.isMovedByHand, isSet(copies.movedBy)),
  asked(f.isRanked, isSet(copies.rankedAt)),
  asked(f.eventId, eventId => sql`${copies.id} in (
    select ${auditEventItems.copyId} from ${auditEventItems} where ${auditEventItems.eventId} = ${eventId})`),
)

const DAY = 24 * 3600_000
export const daysAgo = (days: number) => new Date(Date.now() - days * DAY)

/** Questions to the database behind `client`: a pool, or one connection in a transaction. */
export function questionsTo(client: pg.Pool | pg.PoolClient) {
  const db = drizzle(client as pg.Pool, { schema, casing: 'snake_case' })
  const first = async <T>(rows: Promise<T[]>): Promise<T> => {
    const [row] = await rows
    if (row === undefined) throw new Error('no row answers this question')
    return row
  }
  const self = {
    /** For what has to be handed a database. */
    db,

    // Proposals

    /** A proposal as an older version could keep it, with more changes than can be proposed now. */
    addProposal: async (personId: string, base: number, changes: PolicyChange[]) =>
      (await first(
        db
          .insert(proposals)
          .values({
            personId,
            base,
            changes,
            size: JSON.stringify(changes).length,
            words: 'a large proposal',
            wordsVersion: 1,
            note: '',
            copyIds: [],
          })
          .returning({ id: proposals.id }),
      )).id,

    // Copies

    copy: (id: number) => first(db.select().from(copies).where(eq(copies.id, id))),
    /** In the order of their ids, or the newest first. */
    copies: (filter: CopyFilter = {}, { newest = false, limit = 1_000_000, offset = 0 } = {}) =>
      db.select().from(copies).where(matching(filter)).orderBy(newest ? desc(copies.id) : asc(copies.id)).limit(limit).offset(offset),
    oneCopy: async (filter: CopyFilter, how: { newest?: boolean } = {}) => first(self.copies(filter, { ...how, limit: 1 })),
    copyIds: async (filter: CopyFilter = {}, how: { newest?: boolean, limit?: number, offset?: number } = {}) =>
      (await self.copies(filter, how)).map(c => c.id),
    countCopies: (filter: CopyFilter = {}) => db.$count(copies, matching(filter)),
    /** All that an event may change of copies, and an undo must bring back. */
    copyStates: () =>
      db
        .select({
          id: copies.id,
          lane: copies.lane,
          quarantine: copies.quarantineId,
          folder: copies.folder,
          movedBy: copies.movedBy,
          judgement: copies.judgement,
          strength: copies.judgementStrength,
          tags: copies.tags,
          subject: copies.subject,
          filed: copies.filed,
          reason: copies.reason,
          decision: copies.decisionId,
        })
        .from(copies)
        .orderBy(copies.id),
    /** People who have a copy, and marks, among copies. */
    figures: (filter: CopyFilter) =>
      first(
        db
          .select({
            copies: count(),
            recipients: sql<number>`count(distinct ${copies.personId})::int`,
            wanted: sql<number>`(count(*) filter (where ${copies.judgement} = 'wanted'))::int`,
            unwanted: sql<number>`(count(*) filter (where ${copies.judgement} = 'unwanted'))::int`,
          })
          .from(copies)
          .where(matching(filter)),
      ),
    /** Marks of the copies here whose subject has a word. */
    marksOfWord: (word: string) =>
      first(
        db
          .select({
            wanted: sql<number>`(count(*) filter (where ${copies.judgement} = 'wanted'))::int`,
            unwanted: sql<number>`(count(*) filter (where ${copies.judgement} = 'unwanted'))::int`,
            unmarked: sql<number>`(count(*) filter (where ${copies.judgement} is null))::int`,
          })
          .from(copies)
          .innerJoin(messages, eq(messages.id, copies.messageId))
          .where(sql`${messages.subject} ~* ${`\\m${word}\\M`} and ${copies.lane} not in ('refused', 'sent')`),
      ),
    changeCopies: (filter: CopyFilter, values: Partial<typeof copies.$inferInsert>) =>
      db.update(copies).set(values).where(matching(filter)).returning(),
    /** As if a copy had come, and lain where it lies, since then. */
    ageCopies: async (ids: readonly number[], days: number) => {
      await db.update(copies).set({ laneSince: daysAgo(days) }).where(inArray(copies.id, [...ids]))
      await db
        .update(messages)
        .set({ createdAt: daysAgo(days) })
        .where(sql`${messages.id} in (select ${copies.messageId} from ${copies} where ${inArray(copies.id, [...ids])})`)
    },
    /** Copies with the verdict on their sender, the clause that decided and whether they are asked for. */
    reviewedCopies: () =>
      db
        .select({
          copy: copies,
          verdict: sql<string | null>`${attempts.authentication} ->> 'verdict'`,
          clause: sql<{ kind: string, id: string } | null>`${decisions.reasons} -> ${decisions.decidedBy} -> 'clause'`,
          isAskedFor: sql<boolean>`${exists(
            db.select().from(releaseRequests).where(and(eq(releaseRequests.copyId, copies.id), eq(releaseRequests.state, 'open'))),
          )}`,
        })
        .from(copies)
        .innerJoin(attempts, eq(attempts.id, copies.attemptId))
        .leftJoin(decisions, eq(decisions.id, copies.decisionId)),
    decidingClaims: () => db.select().from(decisionClaims).where(inArray(decisionClaims.outcome, ['decided', 'sameResult'])),
    decisions: () => db.select().from(decisions),
    countDecisions: (filter: CopyFilter) =>
      db.$count(decisions, sql`${decisions.copyId} in (select ${copies.id} from ${copies} where ${matching(filter)})`),
    /** Copies whose reasons show that a rule found a phrase, and was not excepted. */
    countFound: (rule: string, phrase: string) =>
      db.$count(
        copies,
        sql`exists (select from ${decisions} r, jsonb_array_elements(r.reasons) x where r.id = ${copies.decisionId}
          and x -> 'clause' ->> 'id' = ${rule} and x -> 'outcome' ->> 'kind' <> 'excepted' and x::text like ${`%"phrase": "${phrase}"%`})`,
      ),

    // Messages and attempts

    hasSource: async (messageId: number) => (await db.$count(sources, eq(sources.messageId, messageId))) > 0,
    countSources: () => db.$count(sources),
    /** Makes every message one that an older parser read otherwise. */
    readOtherwiseBefore: (onlyWithSource = false) =>
      db
        .update(messages)
        .set({ parser: sql`${messages.parser} - 1`, facts: sql`jsonb_set(${messages.facts}, '{subject}', '"otherwise"')` })
        .where(onlyWithSource ? sql`exists (select 1 from ${sources} where ${sources.messageId} = ${messages.id})` : undefined),
    /** Messages of which a document was given up, since it took too long to read. */
    countReadTooLong: () => db.$count(messages, sql`${messages.facts} -> 'defects' @> '[{"code": "attachment not readable"}]'
      and (${messages.facts} -> 'defects')::text like '%took too long%'`),
    countReadOtherwise: () => db.$count(messages, sql`${messages.facts} ->> 'subject' = 'otherwise'`),
    countReadBy: (parser: number, isIt: boolean) =>
      db.$count(
        messages,
        and(
          isIt ? eq(messages.parser, parser) : ne(messages.parser, parser),
          sql`exists (select 1 from ${sources} where ${sources.messageId} = ${messages.id})`,
        ),
      ),
    /** By subject: whether harmless HTML was kept of an opened message. */
    keptHtml: async (subjects: readonly string[]) => {
      const rows = await db
        .select({ subject: messages.subject, html: openedHtml.html })
        .from(openedHtml)
        .innerJoin(messages, eq(messages.id, openedHtml.messageId))
        .where(inArray(messages.subject, [...subjects]))
      return Object.fromEntries(rows.map(r => [r.subject, r.html !== null]))
    },
    /** The newest first. */
    attempts: (f: { rcptTo?: string, rcptLike?: string, mailFrom?: string, reply?: string, copy?: number, source?: 'import' } = {}) =>
      db
        .select()
        .from(attempts)
        .where(
          and(
            asked(f.rcptTo, to => eq(attempts.rcptTo, to)),
            asked(f.rcptLike, to => ilike(attempts.rcptTo, to)),
            asked(f.mailFrom, from => eq(attempts.mailFrom, from)),
            asked(f.reply, reply => eq(attempts.reply, reply)),
            asked(f.source, source => eq(attempts.source, source)),
            asked(f.copy, id => sql`${attempts.id} = (select ${copies.attemptId} from ${copies} where ${copies.id} = ${id})`),
          ),
        )
        .orderBy(desc(attempts.id)),
    countAttemptsSince: (day: string) => db.$count(attempts, gte(attempts.at, new Date(day))),
    /** How often a message was offered, and in how many transactions. */
    offersOf: (subject: string) =>
      first(
        db
          .select({ tries: count(), times: sql<number>`count(distinct ${attempts.transaction})::int` })
          .from(attempts)
          .innerJoin(messages, eq(messages.id, attempts.messageId))
          .where(eq(messages.subject, subject)),
      ),
    directionsOf: async (client: string) =>
      (await db.selectDistinct({ direction: attempts.direction }).from(attempts).where(eq(attempts.client, client))).map(r => r.direction),
    ageFirstAttempt: (days: number) =>
      db.update(attempts).set({ at: daysAgo(days) }).where(sql`${attempts.id} = (select min(${attempts.id}) from ${attempts})`),

    /** As if all mail had come before its words were kept. */
    forgetWords: () => db.update(messages).set({ search: sql`''::tsvector`, searchVersion: 0 }),

    /** What is left of the mail of people, by subject: of the copy, of its source and of its text. */
    leftOf: async (persons: readonly string[]) => {
      const rows = await db
        .select({ copy: copies, facts: messages.facts, hasSource: sql<boolean>`${sources.messageId} is not null` })
        .from(copies)
        .innerJoin(messages, eq(messages.id, copies.messageId))
        .leftJoin(sources, eq(sources.messageId, messages.id))
        .where(inArray(copies.personId, [...persons]))
        .orderBy(copies.subject, copies.personId)
      return rows.map(({ copy, facts, hasSource }) => {
        const { subject, lane, erased } = copy
        return { subject, lane, erased, hasSource, hasText: facts.segments.length > 0 }
      })
    },
    /** As if all messages but those with one subject had come so long ago. */
    ageMessagesBut: (subject: string, days: number) =>
      db.update(messages).set({ createdAt: daysAgo(days) }).where(ne(messages.subject, subject)),

    // The policy

    countVersions: () => db.$count(versions),
    latestVersion: async () =>
      (await first(db.select({ number: versions.number }).from(versions).orderBy(desc(versions.number)).limit(1))).number,
    /** The first version with such a note, and the last. */
    versionsNoted: async (note: string) => {
      const rows = await db.select({ n: versions.number }).from(versions).where(like(versions.words, `${note}%`)).orderBy(versions.number)
      return { first: rows[0]!.n, last: rows.at(-1)!.n }
    },
    /** As they are in the newest version, in the order in which they were added. */
    entriesOf: (list: string) =>
      db
        .select({ kind: entries.kind, value: entries.value, note: entries.note, expires: entries.expires })
        .from(entries)
        .where(and(eq(entries.listId, list), isNull(entries.toVersion)))
        .orderBy(entries.row),
    entry: (id: string) => first(db.select().from(entries).where(eq(entries.id, id))),
    countEntries: (f: { owner?: string, value?: string }) =>
      db.$count(
        entries,
        and(
          isNull(entries.toVersion),
          asked(f.value, value => eq(entries.value, value)),
          asked(
            f.owner,
            owner => inArray(
              entries.listId,
              db.select({ id: lists.id }).from(lists).where(and(eq(lists.owner, owner), isNull(lists.toVersion))),
            ),
          ),
        ),
      ),
    ageEntries: (list: string, values: readonly string[], days: number) =>
      db.update(entries).set({ addedAt: daysAgo(days) }).where(and(eq(entries.listId, list), inArray(entries.value, [...values]))),
    ruleNamed: (name: string) => first(db.select().from(rules).where(and(eq(rules.name, name), isNull(rules.toVersion)))),
    useOf: (list: string) => first(db.select().from(assignments).where(and(eq(assignments.listId, list), isNull(assignments.toVersion)))),
    /** Gives somebody so many rules that do nothing. */
    addRules: (owner: string, howMany: number) =>
      db.insert(rules).values(
        Array.from({ length: howMany }, (_, i) => ({
          id: `many-${i}`,
          name: `many ${i}`,
          owner,
          mandatory: false,
          state: 'disabled' as const,
          direction: 'inbound' as const,
          when: { phrases: ['x'] },
          except: [],
          claims: [{ stop: { to: 'spam' as const } }],
          rank: i,
          fromVersion: 1,
        })),
      ),
    removeRules: (owner: string) => db.update(rules).set({ toVersion: sql`${rules.fromVersion}` }).where(eq(rules.owner, owner)),
    /** Uses and rules that name a list that is not there. */
    dangling: async () => {
      const isThere = (id: SQL) => sql`exists (select 1 from ${lists} l where l.id = ${id} and l.to_version is null)`
      return {
        assignments: await db.$count(assignments, and(isNull(assignments.toVersion), sql`not ${isThere(sql`${assignments.listId}`)}`)),
        rules: await db.$count(
          rules,
          and(isNull(rules.toVersion), sql`${rules.when} ->> 'senderOn' is not null and not ${isThere(sql`${rules.when} ->> 'senderOn'`)}`),
        ),
      }
    },
    /** The id of something of the policy that there is. */
    someIdOf: async (table: 'lists' | 'rules' | 'assignments' | 'phraseSets') => {
      const which = schema[table]
      return (await first(db.select({ id: which.id }).from(which).where(isNull(which.toVersion)).limit(1))).id
    },

    // Acts, requests, jobs

    eventId: (id: number) => first(db.select().from(auditEvents).where(eq(auditEvents.id, id))),
    newestEvent: () => first(db.select().from(auditEvents).orderBy(desc(auditEvents.id)).limit(1)),
    countEvents: (kind?: string) => db.$count(auditEvents, asked(kind, k => eq(auditEvents.kind, k))),
    /** Acts of a kind on a copy. */
    eventsOn: async (copyId: number, kind: string) =>
      (await db
        .select()
        .from(auditEvents)
        .innerJoin(auditEventItems, eq(auditEventItems.eventId, auditEvents.id))
        .where(and(eq(auditEventItems.copyId, copyId), eq(auditEvents.kind, kind)))).map(r => r.audit_events),
    eventsBy: (person: string, kind: string) =>
      db.select().from(auditEvents).where(and(eq(auditEvents.personId, person), eq(auditEvents.kind, kind))),
    auditEventItems: (eventId: number) => db.select().from(auditEventItems).where(eq(auditEventItems.eventId, eventId)),
    /** As if somebody else had done it. */
    giveEvent: (id: number, person: string) => db.update(auditEvents).set({ personId: person }).where(eq(auditEvents.id, id)),
    /** Puts copies back where they were before an event, and leaves the event. */
    putBackBefore: async (eventId: number) => {
      for (const { copyId, before } of await self.auditEventItems(eventId))
        await db.update(copies).set({ lane: before!.lane, movedBy: null }).where(eq(copies.id, copyId))
    },
    requestFor: (copyId: number) =>
      first(db.select().from(releaseRequests).where(eq(releaseRequests.copyId, copyId)).orderBy(desc(releaseRequests.id)).limit(1)),
    request: (id: number) => first(db.select().from(releaseRequests).where(eq(releaseRequests.id, id))),
    changeRequest: (id: number, values: Partial<typeof releaseRequests.$inferInsert>) =>
      db.update(releaseRequests).set(values).where(eq(releaseRequests.id, id)),
    jobs: (kind?: string) => db.select().from(jobs).where(asked(kind, k => eq(jobs.kind, k))).orderBy(desc(jobs.id)),
    job: (id: number) => first(db.select().from(jobs).where(eq(jobs.id, id))),
    addJob: async (kind: string, values: Partial<typeof jobs.$inferInsert> = {}) =>
      (await first(db.insert(jobs).values({ kind, payload: {}, ...values }).returning({ id: jobs.id }))).id,
    /** Puts a job into the queue, as if it had been interrupted. */
    queueJob: (id: number) => db.execute(sql`select graphile_worker.add_job('job', json_build_object('id', ${id}::int))`),
    /** Jobs in the queue that were tried in vain and wait for the next try. */
    queueFailures: async () => {
      const { rows } = await db.execute(sql`select count(*) n from graphile_worker.jobs where last_error is not null`)
      return Number(rows[0]!.n)
    },
    queueLength: async () => Number((await db.execute(sql`select count(*) n from graphile_worker.jobs`)).rows[0]!.n),
    /** Has done now what is done once a day; returns the job. */
    runDaily: async () => {
      const id = await self.addJob('retention')
      await self.queueJob(id)
      return id
    },
    /** Nothing waits to be done beside. */
    isQuiet: async () =>
      (await self.queueLength()) === 0
      && (await db.$count(jobs, inArray(jobs.state, ['waiting', 'running']))) === 0
      && (await self.countCopies({ lanes: ['spam', 'quarantine', 'lowPriority', 'bin'], isRanked: false })) === 0,

    // People

    countPeople: () => db.$count(people),
    changePerson: (id: string, values: Partial<typeof people.$inferInsert>) => db.update(people).set(values).where(eq(people.id, id)),
    /** Makes an address one of a person's, and has every process read it. */
    addAddress: async (address: string, personId: string) => {
      await db.insert(addresses).values({ address, personId, shown: address })
      await db.execute(sql`select pg_notify('policy', 'people')`)
    },
    removeAddress: async (address: string, personId: string) => {
      await db.delete(addresses).where(and(eq(addresses.address, address), eq(addresses.personId, personId)))
      await db.execute(sql`select pg_notify('policy', 'people')`)
    },
    departmentWithout: async (person: string) =>
      (await first(
        db
          .select({ id: departments.id })
          .from(departments)
          .where(
            notInArray(
              departments.id,
              db.select({ id: memberships.departmentId }).from(memberships).where(eq(memberships.personId, person)),
            ),
          )
          .limit(1),
      )).id,
    isTokenKept: async (token: string) => (await db.$count(invitations, like(invitations.tokenHash, `%${token}%`))) > 0,
    expireInvitations: (personId: string) =>
      db.update(invitations).set({ expiresAt: daysAgo(0.001) }).where(eq(invitations.personId, personId)),
    setting: async (key: string) => (await db.select().from(settings).where(eq(settings.key, key)))[0]?.value,

    /** Wrong passwords that were counted, by what they are counted for. */
    guessesCounted: async () => new Map((await db.select().from(rateLimits)).map(r => [r.key, r.points])),
    countGuesses: (key: string, points: number) => db.update(rateLimits).set({ points }).where(eq(rateLimits.key, key)),

    // The database itself

    /** As if every job of the queue had been tried as often as one is. */
    exhaustQueue: () => db.execute(sql`update graphile_worker._private_jobs set attempts = max_attempts`),
    /** Statements that wait for a lock in this database, and are like this one. */
    countWaiting: async (statement: string) =>
      Number(
        (await db.execute(sql`
          select count(*) n from pg_stat_activity
          where datname = current_database() and wait_event_type = 'Lock' and query ilike ${statement}`)).rows[0]!.n,
      ),
    /** Ends connections of the application; those of that name alone. @returns how many */
    endConnections: async (name = 'sober-gate%') => {
      const { rows } = await db.execute(sql`
        select pg_terminate_backend(pid) from pg_stat_activity where application_name like ${name} and datname = current_database()`)
      return rows.length
    },
    /** Nothing more can be stored in a table, as on a full disk. */
    fillDisk: async (table: 'messages' | 'audit_event_items') => {
      await db.execute(sql`create or replace function no_room() returns trigger language plpgsql as $$ begin
        raise exception using errcode = '53100', message = 'could not extend file: No space left on device'; end $$`)
      await db.execute(sql`create trigger no_room before insert on ${sql.identifier(table)} for each row execute function no_room()`)
    },
    makeRoom: (table: 'messages' | 'audit_event_items') => db.execute(sql`drop trigger no_room on ${sql.identifier(table)}`),
  }
  return self
}

export type Questions = ReturnType<typeof questionsTo>

/** A transaction of its own that holds copies, so that whoever needs them waits. `end` may be called twice. */
export interface Hold {
  /** Questions within the transaction. */
  ask: Questions
  commit(): Promise<void>
  end(): Promise<void>
}

/** Locks the copies that match, in the order of their ids, as one who is about to change them. */
export function holdCopies(pool: pg.Pool, filter: CopyFilter, part: { offset?: number, limit?: number } = {}): Promise<Hold> {
  return hold(pool, async (ask) => {
    const ids = await ask.copyIds(filter, part)
    await ask.db.select({ id: copies.id }).from(copies).where(inArray(copies.id, ids)).orderBy(copies.id).for('update')
  })
}

/** A batch of the review order that has worked out the place of a copy, which the others do not see yet. */
export function holdRanking(pool: pg.Pool, copy: Copy, others: Questions): Promise<Hold> {
  return hold(pool, async ({ db }) => {
    await db.execute(sql`select pg_advisory_xact_lock(${LOCK_NUMBERS.reviewRank})`)
    await others.changeCopies({ ids: [copy.id] }, { rankedAt: null, reviewClause: null })
    const { reviewClause, rankedAt } = copy
    await db.update(copies).set({ reviewClause, rankedAt }).where(eq(copies.id, copy.id))
  })
}

/** Holds the lock under which the policy changes. */
export function holdPolicy(pool: pg.Pool): Promise<Hold> {
  return hold(pool, async ({ db }) => {
    await db.execute(sql`select pg_advisory_xact_lock(${LOCK_NUMBERS.policy})`)
  })
}

/** Locks the message that so many others come before. */
export function holdMessage(pool: pg.Pool, offset: number): Promise<Hold> {
  return hold(pool, async ({ db }) => {
    const [message] = await db.select({ id: messages.id }).from(messages).orderBy(messages.id).limit(1).offset(offset)
    await db.select({ id: messages.id }).from(messages).where(eq(messages.id, message!.id)).for('update')
  })
}

const open = new WeakMap<pg.Pool, Set<() => Promise<void>>>()

/** Ends the transactions that a failed test left open: otherwise locks are held, and the pool cannot be closed. */
export async function endHolds(pool: pg.Pool): Promise<void> {
  for (const end of open.get(pool) ?? []) await end().catch(() => undefined) // its connection is gone
}

async function hold(pool: pg.Pool, lock: (ask: Questions) => Promise<void>): Promise<Hold> {
  const client = await pool.connect()
  client.on('error', () => undefined) // the tests take the server away on purpose
  let isOpen = true
  const close = async (how: 'commit' | 'rollback') => {
    if (!isOpen) return
    isOpen = false
    mine.delete(end)
    try {
      await client.query(how)
    }
    finally {
      client.release(true)
    }
  }
  const end = () => close('rollback')
  const mine = open.get(pool) ?? new Set()
  open.set(pool, mine.add(end))
  await client.query('begin')
  const ask = questionsTo(client)
  await lock(ask)
  return { ask, commit: () => close('commit'), end }
}
