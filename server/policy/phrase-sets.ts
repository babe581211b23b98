import { randomUUID } from 'node:crypto'
import { isNull } from 'drizzle-orm'
import { ownerName, phraseSetSchema, refersToSet, type PhraseItem, type PhraseSet } from '#core'
import { phraseSets } from '../db/schema'
import { db } from '../db/client'
import { checked } from '../platform/checked'
import { findingsFor, withMends, type FindingTold } from './findings'
import { mayChange, mustBeAllowed, seesClausesOf } from '../access/ownership'
import type { Asker } from '../access/roles'
import { changeClauses, type Done } from './apply'
import { standing } from './store'
import { policyInForce } from './active-policy'
import { notFound } from '../platform/problem'

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
  findings: FindingTold[]
  version: number
  mayChange: boolean
}

/** The phrase sets that somebody sees. */
export async function listPhraseSets(asker: Asker): Promise<PhraseSetLine[]> {
  const { policy } = await policyInForce()
  const rows = await db().select().from(phraseSets).where(isNull(phraseSets.toVersion)).orderBy(phraseSets.row)
  const findings = await withMends((await findingsFor(asker)).filter(f => f.clause.kind === 'phrase set'))
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

/** A phrase set in force that the asker may see. */
export async function currentSet(asker: Asker, id: string): Promise<typeof phraseSets.$inferSelect> {
  const row = await standing(db(), phraseSets, id)
  if (!row || !seesClausesOf(asker, row.owner)) throw notFound('phrase set of that name')
  return row
}

/** Makes a phrase set. */
export async function makePhraseSet(asker: Asker, form: PhraseSetForm): Promise<{ id: string } & Done> {
  const set = checked<PhraseSet>(phraseSetSchema, { ...form, id: randomUUID() })
  const { act, version } = await changeClauses(asker, [{ 'put': 'phrase set', 'phrase set': set }])
  return { id: set.id, act, version }
}

/** Changes a phrase set; every rule that looks for it follows. */
export async function changePhraseSet(asker: Asker, id: string, base: number, form: PhraseSetForm): Promise<Done> {
  const row = await currentSet(asker, id)
  mustBeAllowed(asker, row.owner)
  const set = checked<PhraseSet>(phraseSetSchema, { ...form, owner: row.owner, id })
  const { act, version } = await changeClauses(asker, [{ 'put': 'phrase set', 'phrase set': set }], { base, what: `“${row.name}”` })
  return { act, version }
}
