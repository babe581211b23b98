import { and, eq, isNull, sql } from 'drizzle-orm'
import { ownerName, phraseText, refersToSet, type Finding, type PhraseItem, type PhraseSet } from '#core'
import { phraseSets } from '../db/schema'
import { db } from '../db/client'
import { findingsFor } from './findings'
import { mayChange, mustBeAllowed, mustBeSomebody, seesClausesOf } from './ownership'
import type { Asker } from './people'
import { changePolicy, endRows, mustStandAt, newId } from './policy-store'
import { policyInForce, refreshPolicy } from './policy-in-force'
import { invalid, notFound } from './problem'

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
  return rows.filter(s => seesClausesOf(asker, s.owner)).map(s => ({
    id: s.id, name: s.name, owner: s.owner, phrases: s.phrases, ...(s.minimum === null ? {} : { minimum: s.minimum }), ownerName: ownerName(policy, s.owner),
    rules: policy.rules.filter(r => seesClausesOf(asker, r.owner) && refersToSet(r, s.id)).map(r => r.name), findings: findings.filter(f => f.clause.id === s.id), version: s.fromVersion, mayChange: mayChange(asker, s.owner),
  }))
}

/** Makes a phrase set. */
export async function makePhraseSet(asker: Asker, form: PhraseSetForm): Promise<{ id: string }> {
  const { policy } = await policyInForce()
  mustBeSomebody(policy, form.owner)
  mustBeAllowed(asker, form.owner)
  const id = newId()
  await save(asker, id, form, null)
  return { id }
}

/** Changes a phrase set; every rule that looks for it follows. */
export async function changePhraseSet(asker: Asker, id: string, version: number, form: PhraseSetForm): Promise<void> {
  const [row] = await db().select().from(phraseSets).where(and(eq(phraseSets.id, id), isNull(phraseSets.toVersion)))
  if (!row || !seesClausesOf(asker, row.owner)) throw notFound('phrase set of that name')
  mustBeAllowed(asker, row.owner)
  await save(asker, id, { ...form, owner: row.owner }, { version, phrases: row.phrases })
}

async function save(asker: Asker, id: string, form: PhraseSetForm, before: { version: number, phrases: PhraseItem[] } | null): Promise<void> {
  const added = form.phrases.map(phraseText).filter(p => !before?.phrases.some(b => phraseText(b) === p))
  await changePolicy(asker.id, form.owner, `Phrase set “${form.name}” ${before ? 'changed' : 'made'}${added.length ? `: added ${added.slice(0, 3).join(', ')}${added.length > 3 ? ', …' : ''}` : ''}`, async (change) => {
    const rows = await change.tx.select().from(phraseSets).where(and(eq(phraseSets.owner, form.owner), sql`lower(${phraseSets.name}) = lower(${form.name})`, isNull(phraseSets.toVersion)))
    if (rows.some(r => r.id !== id)) throw invalid(`There is a phrase set “${form.name}” already.`, { name: 'This name is taken.' })
    if (before) {
      await mustStandAt(change, phraseSets, id, before.version, `“${form.name}”`)
      await endRows(change, phraseSets, [id])
    }
    await change.tx.insert(phraseSets).values({ id, name: form.name, owner: form.owner, phrases: form.phrases, minimum: form.minimum ?? null, fromVersion: change.version })
  })
  await refreshPolicy()
}
