import { randomUUID } from 'node:crypto'
import { isNull } from 'drizzle-orm'
import { ownerName, phraseSetSchema, refersToSet, type PhraseItem, type PhraseSet } from '#core'
import { phraseSets } from '../db/schema'
import { db } from '../db/client'
import { checked } from '../platform/checked'
import { findingsFor, withFixes, type FindingView } from './findings'
import { canChange, mustBeAllowed, seesClausesOf } from '../access/ownership'
import type { Actor } from '../access/roles'
import { changeClauses, type Done } from './apply'
import { standing } from './store'
import { activePolicy } from './active-policy'
import { notFound } from '../platform/problem'

export interface PhraseSetForm {
  name: string
  owner: string
  phrases: PhraseItem[]
  minimum?: number
}

export interface PhraseSetView extends PhraseSet {
  ownerName: string
  /** Rules that look for it. */
  rules: string[]
  /** What the checks find in it. */
  findings: FindingView[]
  version: number
  canChange: boolean
}

/** The phrase sets that somebody sees. */
export async function listPhraseSets(actor: Actor): Promise<PhraseSetView[]> {
  const { policy } = await activePolicy()
  const rows = await db().select().from(phraseSets).where(isNull(phraseSets.toVersion)).orderBy(phraseSets.row)
  const findings = await withFixes((await findingsFor(actor)).filter(f => f.clause.kind === 'phraseSet'))
  return rows
    .filter(s => seesClausesOf(actor, s.owner))
    .map(s => ({
      id: s.id,
      name: s.name,
      owner: s.owner,
      phrases: s.phrases,
      ...(s.minimum === null ? {} : { minimum: s.minimum }),
      ownerName: ownerName(policy, s.owner),
      rules: policy.rules.filter(r => seesClausesOf(actor, r.owner) && refersToSet(r, s.id)).map(r => r.name),
      findings: findings.filter(f => f.clause.id === s.id),
      version: s.fromVersion,
      canChange: canChange(actor, s.owner),
    }))
}

/** An active phrase set that the actor may see. */
export async function currentSet(actor: Actor, id: string): Promise<typeof phraseSets.$inferSelect> {
  const row = await standing(db(), phraseSets, id)
  if (!row || !seesClausesOf(actor, row.owner)) throw notFound('This phrase set')
  return row
}

/** Makes a phrase set. */
export async function makePhraseSet(actor: Actor, form: PhraseSetForm): Promise<{ id: string } & Done> {
  const set = checked<PhraseSet>(phraseSetSchema, { ...form, id: randomUUID() })
  const { eventId, version } = await changeClauses(actor, [{ type: 'put', kind: 'phraseSet', value: set }])
  return { id: set.id, eventId, version }
}

/** Changes a phrase set; every rule that looks for it follows. */
export async function changePhraseSet(actor: Actor, id: string, base: number, form: PhraseSetForm): Promise<Done> {
  const row = await currentSet(actor, id)
  mustBeAllowed(actor, row.owner)
  const set = checked<PhraseSet>(phraseSetSchema, { ...form, owner: row.owner, id })
  const { eventId, version } = await changeClauses(actor, [{ type: 'put', kind: 'phraseSet', value: set }], { base, what: `“${row.name}”` })
  return { eventId, version }
}
