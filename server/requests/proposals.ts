import { setTimeout as sleep } from 'node:timers/promises'
import { and, desc, eq, getTableColumns, inArray, isNull, ne, sql } from 'drizzle-orm'
import { alias } from 'drizzle-orm/pg-core'
import type { PolicyChange } from '#core/change'
import { may, type Asker } from '../access/roles'
import { recordAct } from '../audit/record'
import { db, type Tx } from '../db/client'
import { people, proposals, type ProposalState } from '../db/schema'
import { invalid, noSuchVersion, notAllowed, notFound, somebodyFaster } from '../platform/problem'
import { wordsOf } from '../policy/apply'
import { previewChanges } from '../policy/preview'
import { askForProposalCheck, hasUncheckedProposals } from '../policy/proposal-check'
import { refusal } from '../policy/refusal'
import { changedSince, isStale, type Since } from '../policy/conflicts'
import { currentVersion } from '../policy/store'
import { putInForce, type Changing } from '../impact/save-changes'
import { mustSeeCopies } from '../copies/locked-copies'
import { linesOf, type CopyLine } from '../copies/copies'

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

export interface ProposalLine {
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
  /** The mail that it is about, as far as the asker may see it; and of how many. */
  copies: CopyLine[]
  about: number
  state: ProposalState
  /** What came since, where it touched the same; null where nothing did. */
  since: Since[] | null
  /** Why it cannot be put in force any more, or null. */
  hindered: string | null
  mayAnswer: boolean
  answeredBy: string | null
  answeredAt: string | null
  reason: string | null
  act: number | null
  /** The act that takes it back, where the asker may. */
  takesBack: number | null
  /** The answer is one that the asker has not seen yet. */
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
const MOST_OPEN = 50
const MOST_SHOWN = 100
/** A proposal is read by somebody: so many changes, written with so many letters. */
const MAX_PROPOSED = 100
const MAX_SIZE = 100_000
const answerers = alias(people, 'answerers')

/** Proposes changes to whoever may make them. Nothing is in force by it. */
export async function propose(asker: Asker, { base, changes, note, ids }: ProposalForm): Promise<{ id: number, act: number }> {
  const size = JSON.stringify(changes).length
  if (changes.length > MAX_PROPOSED || size > MAX_SIZE)
    throw invalid(
      `A proposal holds at most ${MAX_PROPOSED} changes, written with ${MAX_SIZE.toLocaleString('en')} letters. Propose it in parts.`,
    )
  const preview = await previewChanges(asker, changes, { proposed: true })
  if (!preview.net.length) throw invalid('That is in force already: it would change nothing.')
  const words = await wordsOf(preview.before, preview.changes)
  return db().transaction(async (tx) => {
    await mustSeeCopies(tx, asker, ids)
    // One after the other, or several at once would each find room.
    await tx.execute(sql`select pg_advisory_xact_lock(hashtext(${`proposals ${asker.id}`}))`)
    const [open] = await tx.select({ n: sql<number>`count(*)::int` }).from(proposals).where(and(isMine(asker), eq(proposals.state, 'open')))
    if (open!.n >= MOST_OPEN) throw invalid(`${MOST_OPEN} of your proposals wait for an answer already. Take some of them back first.`)
    const { number } = await currentVersion(tx)
    if (base > number) throw noSuchVersion(base, number)
    // Another process may have told of a newer one than this one follows.
    const made = Math.min(base, preview.version)
    const [row] = await tx
      .insert(proposals)
      .values({
        personId: asker.id,
        base: made,
        changes: preview.changes,
        size,
        checkedVersion: preview.version,
        stale: await isStale(tx, preview.changes, made),
        words,
        note,
        copyIds: [...new Set(ids)],
      })
      .returning({ id: proposals.id })
    const act = await recordAct(tx, { personId: asker.id, kind: 'proposed', detail: { words, proposal: row!.id } })
    await tx.update(proposals).set({ proposedBy: act }).where(eq(proposals.id, row!.id))
    return { id: row!.id, act }
  })
}

/** How many of them there are for somebody. */
export interface ProposalCounts {
  /** That wait for the asker's answer, and answers that they have not seen. */
  waiting: number
  news: number
  /** That they can read at all. */
  all: number
}

/** What waits for the asker's answer, and what they proposed themselves; what waits first, the newest of each first. */
export async function listProposals(asker: Asker): Promise<{ items: ProposalLine[] } & ProposalCounts> {
  await untilChecked()
  const { changes, ...columns } = getTableColumns(proposals)
  const shown = sql<PolicyChange[] | null>`case when ${proposals.size} <= ${MAX_SIZE} then ${changes} end`
  const rows = await db()
    .select({ proposal: { ...columns, changes: shown }, by: people.name, answerer: answerers.name })
    .from(proposals)
    .leftJoin(people, eq(people.id, proposals.personId))
    .leftJoin(answerers, eq(answerers.id, proposals.answeredBy))
    .where(and(ne(proposals.state, 'withdrawn'), mayAnswer(asker) ? undefined : isMine(asker)))
    .orderBy(sql`${proposals.state} <> 'open'`, desc(proposals.id))
    .limit(MOST_SHOWN)
  const items: ProposalLine[] = []
  for (const { proposal, ...names } of rows) items.push(await lineOf(asker, proposal, names))
  return { items, ...(await countProposals(asker)) }
}

/** How many wait for the asker's answer, and how many answers they have not seen. */
export async function countProposals(asker: Asker): Promise<ProposalCounts> {
  const [row] = await db()
    .select({
      waiting: sql<number>`(count(*) filter (where ${proposals.state} = 'open'))::int`,
      all: sql<number>`count(*)::int`,
      news: sql<number>`(count(*) filter (where ${isNews(asker)}))::int`,
    })
    .from(proposals)
    .where(and(ne(proposals.state, 'withdrawn'), mayAnswer(asker) ? undefined : isMine(asker)))
  return { waiting: mayAnswer(asker) ? row!.waiting : 0, news: row!.news, all: row!.all }
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

type Row = Omit<typeof proposals.$inferSelect, 'changes'> & { changes: PolicyChange[] | null }

async function lineOf(asker: Asker, row: Row, { by, answerer }: Names): Promise<ProposalLine> {
  const open = row.state === 'open'
  return {
    id: row.id,
    at: row.at.toISOString(),
    by: by ?? 'somebody who has left',
    mine: row.personId === asker.id,
    words: row.words,
    note: row.note,
    base: row.base,
    changes: row.changes,
    copies: await linesOf(asker, row.copyIds.slice(0, MOST_COPIES)),
    about: row.copyIds.length,
    state: row.state,
    since: open && row.stale ? await changedSince(db(), asker, row.base) : null,
    hindered: open && row.problems ? refusal(row.problems, row.changes ?? [], asker, {}).detail : null,
    mayAnswer: open && mayAnswer(asker),
    answeredBy: row.answeredBy === null ? null : (answerer ?? 'somebody who has left'),
    answeredAt: row.answeredAt?.toISOString() ?? null,
    reason: row.reason,
    act: row.actId,
    takesBack: open && row.personId === asker.id ? row.proposedBy : null,
    news: row.personId === asker.id && (row.state === 'accepted' || row.state === 'declined') && row.seenAt === null,
  }
}

const MOST_COPIES = 12

/** Puts a proposal in force, or declines it with a reason. @throws where it went stale, with what touched the same since */
export async function answerProposal(
  asker: Asker,
  id: number,
  { accept, reason, base, existing, confirmed }: Answer,
): Promise<{ state: ProposalState, version: number | null, act: number | null, job: number | null }> {
  if (!mayAnswer(asker)) throw notAllowed('Whoever may change these lists and rules answers: an administrator.')
  const [row] = await db().select().from(proposals).where(eq(proposals.id, id))
  if (!row || row.state === 'withdrawn') throw notFound('proposal of that number')
  if (row.state !== 'open') throw somebodyFaster('This proposal has been answered already; it')
  if (!accept) {
    if (!reason) throw invalid('Say why not: whoever proposed it reads it.', { reason: 'Say why not.' })
    return db().transaction(async (tx) => {
      await settle(tx, asker, row.id, { state: 'declined', reason, actId: null })
      const act = await recordAct(tx, { personId: asker.id, kind: 'declined', detail: { words: row.words, proposal: row.id, reason } })
      return { state: 'declined', version: null, act, job: null }
    })
  }
  const how = { base: base ?? row.base, changes: row.changes, coming: true, existing, confirmed }
  const accepted = { state: 'accepted', reason: reason ?? null } as const
  const done = await putInForce(asker, how, (tx, actId) => settle(tx, asker, row.id, { ...accepted, actId }))
  // It may have been put in force already, by whatever hand.
  if (done.act === null) await db().transaction(tx => settle(tx, asker, row.id, { ...accepted, actId: null }))
  return { state: 'accepted', ...done }
}

type Settled = Pick<typeof proposals.$inferInsert, 'state' | 'reason' | 'actId'>

async function settle(tx: Tx, asker: Asker, id: number, how: Settled): Promise<void> {
  const settled = await tx
    .update(proposals)
    .set({ ...how, answeredBy: asker.id, answeredAt: new Date(), seenAt: null })
    .where(and(eq(proposals.id, id), eq(proposals.state, 'open')))
    .returning({ id: proposals.id })
  if (!settled.length) throw somebodyFaster('This proposal has been answered already; it')
}

/** The asker has seen the answers to these of their proposals. */
export async function sawAnswers(asker: Asker, ids: readonly number[]): Promise<void> {
  await db()
    .update(proposals)
    .set({ seenAt: new Date() })
    .where(and(inArray(proposals.id, [...ids]), isMine(asker), isNull(proposals.seenAt), ne(proposals.state, 'open')))
}

/** A proposal by which this act changed something waits for an answer again. */
export async function reopenOf(tx: Tx, actId: number): Promise<void> {
  await tx
    .update(proposals)
    .set({ state: 'open', answeredBy: null, answeredAt: null, reason: null, actId: null, seenAt: null, checkedVersion: null })
    .where(and(eq(proposals.actId, actId), eq(proposals.state, 'accepted')))
}

interface TakenBack {
  id: number
  kind: string
  personId: string | null
  detail: Record<string, unknown>
}

/** Takes back that something was proposed, or that it was declined, as an act of its own. @throws where it was answered since */
export async function takeBackProposal(asker: Asker, act: TakenBack): Promise<number> {
  const id = Number(act.detail.proposal)
  if (act.kind === 'proposed' && act.personId !== asker.id)
    throw notAllowed('This proposal is another’s to take back. Decline it with a reason instead: whoever proposed it reads that.')
  const [from, to] = act.kind === 'proposed' ? (['open', 'withdrawn'] as const) : (['declined', 'open'] as const)
  return db().transaction(async (tx) => {
    const changed = await tx
      .update(proposals)
      .set({
        state: to,
        ...(to === 'open' ? { answeredBy: null, answeredAt: null, reason: null, seenAt: null, checkedVersion: null } : {}),
      })
      .where(and(eq(proposals.id, id), eq(proposals.state, from)))
      .returning({ id: proposals.id })
    if (!changed.length) throw somebodyFaster('This proposal')
    const detail = { act: act.id, kind: act.kind, words: `took back: ${String(act.detail.words)}` }
    return recordAct(tx, { personId: asker.id, kind: 'taken back', detail, undoes: act.id })
  })
}

/** Whether somebody may accept and decline proposals. */
export function mayAnswer(asker: Asker): boolean {
  return may(asker, 'change everybody’s clauses')
}

function isMine(asker: Asker) {
  return eq(proposals.personId, asker.id)
}

function isNews(asker: Asker) {
  return and(isMine(asker), inArray(proposals.state, ['accepted', 'declined']), isNull(proposals.seenAt))
}
