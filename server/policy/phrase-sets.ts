import isSame from 'fast-deep-equal'
import { and, eq, isNull, sql } from 'drizzle-orm'
import { ownerName, phraseSetSchema, phraseText, refersToSet, type Finding, type PhraseItem, type PhraseSet } from '#core'
import { phraseSets } from '../db/schema'
import { db } from '../db/client'
import { checked } from '../platform/checked'
import { findingsFor } from './findings'
import { mayChange, mustBeAllowed, mustBeSomebody, seesClausesOf } from '../access/ownership'
import type { Asker } from '../access/roles'
import { changePolicy, endRows, lapseConfirmations, mustStandAt, newId, standing, type Change } from './store'
import { policyInForce, refreshPolicy } from './in-force'
import { invalid, notFound } from '../platform/problem'
import { mustFit } from '../access/quota'

export interface PhraseSetForm {
  name: string
  owner: string
  phrases: PhraseItem[]
  minimum?: number
}

export interface PhraseSetLine extends PhraseSet {
  ownerName: string
  /** Rules that look for it. */
  rules: string[]
  /** What the checks find in it. */
  findings: Finding[]
  version: number
  mayChange: boolean
}

/** The phrase sets that somebody sees. */
export async function listPhraseSets(asker: Asker): Promise<PhraseSetLine[]> {
  const { policy } = await policyInForce()
  const rows = await db().select().from(phraseSets).where(isNull(phraseSets.toVersion)).orderBy(phraseSets.row)
  const findings = (await findingsFor(asker)).filter(f => f.clause.kind === 'phrase set')
  return rows
    .filter(s => seesClausesOf(asker, s.owner))
    .map(s => ({
      id: s.id,
      name: s.name,
      owner: s.owner,
      phrases: s.phrases,
      ...(s.minimum === null ? {} : { minimum: s.minimum }),
      ownerName: ownerName(policy, s.owner),
      rules: policy.rules.filter(r => seesClausesOf(asker, r.owner) && refersToSet(r, s.id)).map(r => r.name),
      findings: findings.filter(f => f.clause.id === s.id),
      version: s.fromVersion,
      mayChange: mayChange(asker, s.owner),
    }))
}

/** Makes a phrase set. */
export async function makePhraseSet(asker: Asker, form: PhraseSetForm): Promise<{ id: string }> {
  const { policy } = await policyInForce()
  mustBeSomebody(policy, form.owner)
  mustBeAllowed(asker, form.owner)
  const set = checked<PhraseSet>(phraseSetSchema, { ...form, id: newId() })
  await changePolicy(asker.id, set.owner, `Phrase set “${set.name}” made${addedWords(set.phrases, [])}`, async (change) => {
    await write(change, asker, set)
  })
  await refreshPolicy()
  return { id: set.id }
}

/** Changes a phrase set; every rule that looks for it follows. */
export async function changePhraseSet(asker: Asker, id: string, version: number, form: PhraseSetForm): Promise<void> {
  const [row] = await db()
    .select()
    .from(phraseSets)
    .where(and(eq(phraseSets.id, id), isNull(phraseSets.toVersion)))
  if (!row || !seesClausesOf(asker, row.owner)) throw notFound('phrase set of that name')
  mustBeAllowed(asker, row.owner)
  const set = checked<PhraseSet>(phraseSetSchema, { ...form, owner: row.owner, id })
  await changePolicy(asker.id, row.owner, `Phrase set “${set.name}” changed${addedWords(set.phrases, row.phrases)}`, async (change) => {
    await mustStandAt(change, phraseSets, id, version, `“${row.name}”`)
    const before = (await standing(change, phraseSets, id))!
    if (isWider(set, before)) await lapseConfirmations(change, { set: id })
    await endRows(change, phraseSets, [id])
    await write(change, asker, set)
  })
  await refreshPolicy()
}

async function write(change: Change, asker: Asker, set: PhraseSet): Promise<void> {
  const rows = await change.tx
    .select()
    .from(phraseSets)
    .where(and(eq(phraseSets.owner, set.owner), sql`lower(${phraseSets.name}) = lower(${set.name})`, isNull(phraseSets.toVersion)))
  if (rows.some(r => r.id !== set.id)) throw invalid(`There is a phrase set “${set.name}” already.`, { name: 'This name is taken.' })
  await change.tx
    .insert(phraseSets)
    .values({
      id: set.id,
      name: set.name,
      owner: set.owner,
      phrases: set.phrases,
      minimum: set.minimum ?? null,
      fromVersion: change.version,
    })
  await mustFit(change, asker, set.owner, 'sets')
}

// Any phrase that was not there just so, or a minimum that is reached sooner: then it may find what it did not find.
function isWider(now: PhraseSet, before: { phrases: PhraseItem[], minimum: number | null }): boolean {
  return (now.minimum ?? 0) < (before.minimum ?? 0) || now.phrases.some(p => !before.phrases.some(b => isSame(p, b)))
}

function addedWords(now: readonly PhraseItem[], before: readonly PhraseItem[]): string {
  const known = new Set(before.map(phraseText))
  const added = now.map(phraseText).filter(p => !known.has(p))
  return added.length ? `: added ${added.slice(0, 3).join(', ')}${added.length > 3 ? ', …' : ''}` : ''
}
