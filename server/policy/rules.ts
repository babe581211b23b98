import { randomUUID } from 'node:crypto'
import { and, asc, eq, inArray, isNull, sql } from 'drizzle-orm'
import { ownerName, ruleSchema, type Owner, type Rule } from '#core'
import { ruleSentence } from '#core/words'
import { db } from '../db/client'
import { copies, decisionClaims, rules } from '../db/schema'
import { checked } from '../platform/checked'
import { countableBy } from '../access/copy-access'
import { findingsFor, withFixes, type FindingView } from './findings'
import { canChange, mustBeAllowed, seesClausesOf } from '../access/ownership'
import type { Actor } from '../access/roles'
import { changeClauses, type Done } from './apply'
import { ruleOf } from './rows'
import { statsOf, type RuleStats } from './rule-stats'
import { currentVersion, standing } from './store'
import { activePolicy } from './active-policy'
import { notFound } from '../platform/problem'

export type RuleForm = Omit<Rule, 'id'>

/** What a rule touched, by judgement. */
export interface Impact {
  wanted: number
  unwanted: number
  unmarked: number
}

export interface RuleView extends Rule {
  ownerName: string
  sentence: string
  impact: Impact
  /** When it matched last. */
  lastHit: string | null
  /** What the checks find in it. */
  findings: FindingView[]
  version: number
  canChange: boolean
}

/** The rules that somebody sees, in their order, and the version of the policy in which they stand so. */
export async function listRules(actor: Actor): Promise<{ items: RuleView[], version: number }> {
  const { number: version } = await currentVersion()
  const rows = (await db().select().from(rules).where(isNull(rules.toVersion)).orderBy(asc(rules.rank), asc(rules.row))).filter(r =>
    seesClausesOf(actor, r.owner),
  )
  return { items: await linesOf(actor, rows), version }
}

/** One rule with its record. */
export async function openRule(actor: Actor, id: string): Promise<RuleView & { stats: RuleStats }> {
  const row = await currentRule(actor, id)
  const [line] = await linesOf(actor, [row])
  return { ...line!, stats: await statsOf(actor, ruleOf(row)) }
}

async function linesOf(actor: Actor, rows: (typeof rules.$inferSelect)[]): Promise<RuleView[]> {
  if (!rows.length) return []
  const { policy } = await activePolicy()
  const n = (judgement: string) => sql<number>`count(distinct ${copies.id}) filter (where ${copies.judgement} ${sql.raw(judgement)})::int`
  const impacts = await db()
    .select({
      id: decisionClaims.clauseId,
      wanted: n('= \'wanted\''),
      unwanted: n('= \'unwanted\''),
      unmarked: n('is null'),
      last: sql<string | null>`max(${copies.receivedAt})`,
    })
    .from(decisionClaims)
    .innerJoin(copies, and(eq(copies.id, decisionClaims.copyId), eq(copies.decisionId, decisionClaims.decisionId), countableBy(actor)))
    .where(
      and(
        inArray(
          decisionClaims.clauseId,
          rows.map(r => r.id),
        ),
        inArray(decisionClaims.outcome, ['decided', 'sameResult', 'protected', 'placed', 'applied', 'monitored']),
      ),
    )
    .groupBy(decisionClaims.clauseId)
  const ids = new Set(rows.map(r => r.id))
  const findings = await withFixes((await findingsFor(actor)).filter(f => f.clause.kind === 'rule' && ids.has(f.clause.id)))
  return rows.map((r) => {
    const { id: _, last, ...impact } = impacts.find(i => i.id === r.id) ?? { id: r.id, wanted: 0, unwanted: 0, unmarked: 0, last: null }
    return {
      ...ruleOf(r),
      ownerName: ownerName(policy, r.owner),
      sentence: ruleSentence(ruleOf(r), policy),
      impact,
      lastHit: last === null ? null : new Date(last).toISOString(),
      findings: findings.filter(f => f.clause.id === r.id),
      version: r.fromVersion,
      canChange: canChange(actor, r.owner),
    }
  })
}

async function currentRule(actor: Actor, id: string): Promise<typeof rules.$inferSelect> {
  const row = await standing(db(), rules, id)
  if (!row || !seesClausesOf(actor, row.owner)) throw notFound('This rule')
  return row
}

/** Makes a rule. One that protects starts on top of its owner's, any other at the end. */
export async function makeRule(actor: Actor, form: RuleForm): Promise<{ id: string } & Done> {
  const rule = checked<Rule>(ruleSchema, { ...form, id: randomUUID() })
  const { eventId, version } = await changeClauses(actor, [{ type: 'put', kind: 'rule', value: rule }])
  return { id: rule.id, eventId, version }
}

/** Changes a rule; it keeps its place. */
export async function changeRule(actor: Actor, id: string, base: number, form: RuleForm): Promise<Done> {
  const before = await currentRule(actor, id)
  mustBeAllowed(actor, before.owner)
  const rule = checked<Rule>(ruleSchema, { ...form, id })
  const { eventId, version } = await changeClauses(actor, [{ type: 'put', kind: 'rule', value: rule }], { base, what: `“${before.name}”` })
  return { eventId, version }
}

export async function removeRule(actor: Actor, id: string, base: number): Promise<Done> {
  const { name } = await currentRule(actor, id)
  const { eventId, version } = await changeClauses(actor, [{ type: 'remove', kind: 'rule', id }], { base, what: `“${name}”` })
  return { eventId, version }
}

/**
 * Puts the rules of one owner into this order. All of them must be named, so that nobody's new rule is lost on the way.
 * @param base version of the policy when the order was seen: of two who order at the same time the second is told
 */
export async function orderRules(actor: Actor, owner: Owner, ids: readonly string[], base: number): Promise<Done> {
  const { eventId, version } = await changeClauses(actor, [{ type: 'order', kind: 'rule', owner: owner, ids: [...ids] }], {
    base,
    what: 'The list of rules',
  })
  return { eventId, version }
}
