import { setTimeout as sleep } from 'node:timers/promises'
import { and, desc, eq, getTableColumns, inArray, isNull, ne, sql } from 'drizzle-orm'
import { alias } from 'drizzle-orm/pg-core'
import { merged, type PolicyChange } from '#core/change'
import { numberWords, quoted } from '#core/wording'
import { can, type Actor } from '../access/roles'
import { recordEvent } from '../audit/record'
import { db, type Tx } from '../db/client'
import { people, proposals, type ProposalState } from '../db/schema'
import { alreadyDone, conflict, invalid, noSuchVersion, notAllowed, notFound } from '../platform/problem'
import { wordsOf } from '../policy/apply'
import { WORDS_VERSION } from '../policy/words-version'
import { previewChanges } from '../policy/preview'
import { askForProposalCheck, hasUncheckedProposals } from '../policy/proposal-check'
import { refusal } from '../policy/refusal'
import { changedSince, isStale, type Since } from '../policy/conflicts'
import { currentVersion, loadWithoutEntries } from '../policy/store'
import { saveChanges, type Changing } from '../impact/save-changes'
import { mustSeeCopies } from '../copies/locked-copies'
import { linesOf, type CopyView } from '../copies/copies'

/** Changes that somebody may not make, as they propose them. */
export interface ProposalForm {
  /** The version of the policy on which they were made. */
  base: number
  changes: PolicyChange[]
  /** Why, for whoever decides. */
  note: string
  /** The mail that they are about. */
  ids: number[]
}

export interface ProposalView {
  id: number
  at: string
  /** Name of who proposed it. */
  by: string
  mine: boolean
  words: string
  note: string
  base: number
  /** Null where they are too large to be listed. */
  changes: PolicyChange[] | null
  /** The mail that it is about, as far as the actor may see it; and of how many. */
  copies: CopyView[]
  about: number
  state: ProposalState
  /** Of what came since, what accepting it would replace; else both go together. */
  replaces: string[]
  /** What came since, where it touched the same; null where nothing did. */
  since: Since[] | null
  /** Why it cannot be saved any more, or null. */
  hindered: string | null
  canAnswer: boolean
  answeredBy: string | null
  answeredAt: string | null
  reason: string | null
  eventId: number | null
  /** The act that undoes it, where the actor may. */
  takesBack: number | null
  /** The answer is one that the actor has not seen yet. */
  news: boolean
}

export interface Answer {
  accept: boolean
  /** Why not. */
  reason?: string
  /** The version on which it was looked at; what touched the same before it was seen. */
  base?: number
  existing?: Changing['existing']
  confirmed?: Changing['confirmed']
}

/** So many of one person's wait at a time. */
const MAX_OPEN = 50
const MAX_SHOWN = 100
/** A proposal is read by somebody: so many changes, written with so many letters. */
const MAX_PROPOSED = 100
const MAX_SIZE = 100_000
const answerers = alias(people, 'answerers')

/** Proposes changes to whoever may make them. Nothing is active by it. */
export async function propose(actor: Actor, { base, changes, note, ids }: ProposalForm): Promise<{ id: number, eventId: number }> {
  const size = JSON.stringify(changes).length
  if (changes.length > MAX_PROPOSED || size > MAX_SIZE)
    throw invalid(
      `A proposal can have at most ${numberWords(MAX_PROPOSED)} changes and ${numberWords(MAX_SIZE)} characters. `
      + 'Propose the changes in parts.',
    )
  const preview = await previewChanges(actor, changes, { proposed: true })
  if (!preview.net.length) throw invalid('This is already saved: the proposal would change nothing.')
  const words = await wordsOf(preview.before, preview.changes)
  return db().transaction(async (tx) => {
    await mustSeeCopies(tx, actor, ids)
    // One after the other, or several at once would each find room.
    await tx.execute(sql`select pg_advisory_xact_lock(hashtext(${`proposals ${actor.id}`}))`)
    const [open] = await tx.select({ n: sql<number>`count(*)::int` }).from(proposals).where(and(isMine(actor), eq(proposals.state, 'open')))
    if (open!.n >= MAX_OPEN) throw invalid(`You already have ${MAX_OPEN} open proposals. Withdraw some of them first.`)
    const { number } = await currentVersion(tx)
    if (base > number) throw noSuchVersion(base, number)
    // Another process may have told of a newer one than this one follows.
    const made = Math.min(base, preview.version)
    const [row] = await tx
      .insert(proposals)
      .values({
        personId: actor.id,
        base: made,
        changes: preview.changes,
        size,
        checkedVersion: preview.version,
        stale: await isStale(tx, preview.changes, made),
        words,
        wordsVersion: WORDS_VERSION,
        note,
        copyIds: [...new Set(ids)],
      })
      .returning({ id: proposals.id })
    const eventId = await recordEvent(tx, { personId: actor.id, kind: 'proposed', detail: { proposal: row!.id } })
    await tx.update(proposals).set({ proposalEventId: eventId }).where(eq(proposals.id, row!.id))
    return { id: row!.id, eventId }
  })
}

/** How many of them there are for somebody. */
export interface ProposalCounts {
  /** That wait for the actor's answer, and answers that they have not seen. */
  waiting: number
  news: number
  /** That they can read at all. */
  all: number
}

/** What waits for the actor's answer, and what they proposed themselves; what waits first, the newest of each first. */
export async function listProposals(actor: Actor): Promise<{ items: ProposalView[] } & ProposalCounts> {
  await untilChecked()
  const { changes, ...columns } = getTableColumns(proposals)
  const shown = sql<PolicyChange[] | null>`case when ${proposals.size} <= ${MAX_SIZE} then ${changes} end`
  const rows = await db()
    .select({ proposal: { ...columns, changes: shown }, by: people.name, answerer: answerers.name })
    .from(proposals)
    .leftJoin(people, eq(people.id, proposals.personId))
    .leftJoin(answerers, eq(answerers.id, proposals.answeredBy))
    .where(and(ne(proposals.state, 'withdrawn'), canAnswer(actor) ? undefined : isMine(actor)))
    .orderBy(sql`${proposals.state} <> 'open'`, desc(proposals.id))
    .limit(MAX_SHOWN)
  const items: ProposalView[] = []
  for (const { proposal, ...names } of rows) items.push(await lineOf(actor, proposal, names))
  return { items, ...(await countProposals(actor)) }
}

/** How many wait for the actor's answer, and how many answers they have not seen. */
export async function countProposals(actor: Actor): Promise<ProposalCounts> {
  const [row] = await db()
    .select({
      waiting: sql<number>`(count(*) filter (where ${proposals.state} = 'open'))::int`,
      all: sql<number>`count(*)::int`,
      news: sql<number>`(count(*) filter (where ${isNews(actor)}))::int`,
    })
    .from(proposals)
    .where(and(ne(proposals.state, 'withdrawn'), canAnswer(actor) ? undefined : isMine(actor)))
  return { waiting: canAnswer(actor) ? row!.waiting : 0, news: row!.news, all: row!.all }
}

interface Names {
  by: string | null
  answerer: string | null
}

/** How long a list waits, in milliseconds, until proposals were looked at under the policy of now; then it shows what was found before. */
const PATIENCE = 1500
const LOOK_AGAIN = 50

async function untilChecked(): Promise<void> {
  const { number } = await currentVersion()
  if (!(await askForProposalCheck(number))) return
  for (const until = Date.now() + PATIENCE; Date.now() < until;) {
    await sleep(LOOK_AGAIN)
    if (!(await hasUncheckedProposals(number))) return
  }
}

type ProposalRow = Omit<typeof proposals.$inferSelect, 'changes'> & { changes: PolicyChange[] | null }

async function lineOf(actor: Actor, row: ProposalRow, { by, answerer }: Names): Promise<ProposalView> {
  const open = row.state === 'open'
  const isStale = open && row.stale && row.changes !== null
  const now = isStale ? await mergedNow(row.changes!, row.base) : null
  return {
    id: row.id,
    at: row.at.toISOString(),
    by: by ?? 'a deactivated user',
    mine: row.personId === actor.id,
    words: row.words,
    note: row.note,
    base: row.base,
    changes: now?.changes ?? row.changes,
    replaces: now ? now.replaces : [],
    copies: await linesOf(actor, row.copyIds.slice(0, MAX_COPIES)),
    about: row.copyIds.length,
    state: row.state,
    since: open && row.stale ? await changedSince(db(), actor, row.changes ?? [], row.base) : null,
    hindered: open && row.problems ? refusal(row.problems, row.changes ?? [], actor, {}).detail : null,
    canAnswer: open && canAnswer(actor),
    answeredBy: row.answeredBy === null ? null : (answerer ?? 'a deactivated user'),
    answeredAt: row.answeredAt?.toISOString() ?? null,
    reason: row.reason,
    eventId: row.eventId,
    takesBack: open && row.personId === actor.id ? row.proposalEventId : null,
    news: row.personId === actor.id && (row.state === 'accepted' || row.state === 'declined') && row.seenAt === null,
  }
}

const MAX_COPIES = 12

const PARTS: Record<string, string> = { when: 'the conditions', except: 'the exceptions', claims: 'the actions', phrases: 'the phrases' }

/** Changes as they are made on the policy of now, without losing what came since they were proposed; and what they replace of it. */
async function mergedNow(changes: readonly PolicyChange[], base: number): Promise<{ changes: PolicyChange[], replaces: string[] }> {
  return db().transaction(async (tx) => {
    const now = await loadWithoutEntries(tx)
    const { changes: made, replaces } = merged(changes, await loadWithoutEntries(tx, base), now)
    const names = new Map([...now.rules, ...now.lists, ...now.phraseSets].map(c => [c.id, c.name]))
    const words = replaces.map(({ id, part }) => {
      const name = names.get(id)
      return `${PARTS[part] ?? part}${name === undefined ? '' : ` of ${quoted(name)}`}`
    })
    return { changes: made, replaces: [...new Set(words)] }
  }, { isolationLevel: 'repeatable read' })
}

/** Saves the changes of a proposal, or declines it with a reason. @throws where it went stale, with what touched the same since */
export async function answerProposal(
  actor: Actor,
  id: number,
  { accept, reason, base, existing, confirmed }: Answer,
): Promise<{ state: ProposalState, version: number | null, eventId: number | null, job: number | null }> {
  if (!canAnswer(actor)) throw notAllowed('Only an administrator can answer this proposal.')
  const [row] = await db().select().from(proposals).where(eq(proposals.id, id))
  if (!row || row.state === 'withdrawn') throw notFound('This proposal')
  if (row.state !== 'open') throw alreadyDone('This proposal has already been answered.')
  if (!accept) {
    if (!reason) throw invalid('Enter a reason. The proposer can read it.', { reason: 'Enter a reason.' })
    return db().transaction(async (tx) => {
      await settle(tx, actor, row.id, { state: 'declined', reason, eventId: null })
      const eventId = await recordEvent(tx, { personId: actor.id, kind: 'declined', detail: { proposal: row.id, reason } })
      return { state: 'declined', version: null, eventId, job: null }
    })
  }
  // What came in between was seen by who names a newer version, and stays.
  const isNewer = base !== undefined && base > row.base
  const changes = isNewer ? (await mergedNow(row.changes, row.base)).changes : row.changes
  const how = { base: base ?? row.base, changes, coming: true, existing, confirmed }
  const accepted = { state: 'accepted', reason: reason ?? null } as const
  const done = await saveChanges(actor, how, (tx, { eventId }) => settle(tx, actor, row.id, { ...accepted, eventId }))
  // It may have been saved already, by whatever hand.
  if (done.eventId === null) await db().transaction(tx => settle(tx, actor, row.id, { ...accepted, eventId: null }))
  return { state: 'accepted', ...done }
}

type Settled = Pick<typeof proposals.$inferInsert, 'state' | 'reason' | 'eventId'>

async function settle(tx: Tx, actor: Actor, id: number, how: Settled): Promise<void> {
  const settled = await tx
    .update(proposals)
    .set({ ...how, answeredBy: actor.id, answeredAt: new Date(), seenAt: null })
    .where(and(eq(proposals.id, id), eq(proposals.state, 'open')))
    .returning({ id: proposals.id })
  if (!settled.length) throw alreadyDone('This proposal has already been answered.')
}

/** The actor has seen the answers to these of their proposals. */
export async function sawAnswers(actor: Actor, ids: readonly number[]): Promise<void> {
  await db()
    .update(proposals)
    .set({ seenAt: new Date() })
    .where(and(inArray(proposals.id, [...ids]), isMine(actor), isNull(proposals.seenAt), ne(proposals.state, 'open')))
}

/** A proposal by which this event changed something waits for an answer again. */
export async function reopenOf(tx: Tx, eventId: number): Promise<void> {
  await tx
    .update(proposals)
    .set({ state: 'open', answeredBy: null, answeredAt: null, reason: null, eventId: null, seenAt: null, checkedVersion: null })
    .where(and(eq(proposals.eventId, eventId), eq(proposals.state, 'accepted')))
}

interface ProposalEvent {
  id: number
  kind: string
  personId: string | null
  detail: Record<string, unknown>
}

/** Undoes that something was proposed, or that it was declined, as an event of its own. @throws where it was answered since */
export async function undoProposalEvent(actor: Actor, auditEvent: ProposalEvent): Promise<number> {
  const id = Number(auditEvent.detail.proposal)
  if (auditEvent.kind === 'proposed' && auditEvent.personId !== actor.id)
    throw notAllowed('Only the proposer can withdraw this proposal. You can decline it with a reason.')
  const [from, to] = auditEvent.kind === 'proposed' ? (['open', 'withdrawn'] as const) : (['declined', 'open'] as const)
  return db().transaction(async (tx) => {
    const changed = await tx
      .update(proposals)
      .set({
        state: to,
        ...(to === 'open' ? { answeredBy: null, answeredAt: null, reason: null, seenAt: null, checkedVersion: null } : {}),
      })
      .where(and(eq(proposals.id, id), eq(proposals.state, from)))
      .returning({ id: proposals.id })
    if (!changed.length) throw conflict('This proposal')
    return recordEvent(tx, { personId: actor.id, kind: 'undone', detail: { proposal: id }, undoes: auditEvent.id })
  })
}

/** Whether somebody may accept and decline proposals. */
export function canAnswer(actor: Actor): boolean {
  return can(actor, 'change all lists and rules')
}

function isMine(actor: Actor) {
  return eq(proposals.personId, actor.id)
}

function isNews(actor: Actor) {
  return and(isMine(actor), inArray(proposals.state, ['accepted', 'declined']), isNull(proposals.seenAt))
}
