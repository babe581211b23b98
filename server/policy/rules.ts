import { randomUUID } from 'node:crypto'
import { and, asc, eq, inArray, isNull, sql } from 'drizzle-orm'
import { ownerName, ruleSchema, type Owner, type Rule } from '#core'
import { ruleSentence } from '#core/words'
import { db } from '../db/client'
import { copies, rulingClaims, rules } from '../db/schema'
import { checked } from '../platform/checked'
import { countableBy } from '../access/copy-access'
import { findingsFor, withMends, type FindingTold } from './findings'
import { mayChange, mustBeAllowed, seesClausesOf } from '../access/ownership'
import type { Asker } from '../access/roles'
import { changeClauses, type Done } from './apply'
import { ruleOf } from './rows'
import { recordOf, type RuleRecord } from './rule-stats'
import { currentVersion, standing } from './store'
import { policyInForce } from './active-policy'
import { notFound } from '../platform/problem'

export type RuleForm = Omit<Rule, 'id'>

/** What a rule touched, by judgement. */
export interface Impact {
  wanted: number
  unwanted: number
  unjudged: number
}

export interface RuleLine extends Rule {
  ownerName: string
  sentence: string
  impact: Impact
  /** When it matched last. */
  lastHit: string | null
  /** What the checks find in it. */
  findings: FindingTold[]
  version: number
  mayChange: boolean
}

/** The rules that somebody sees, in their order, and the version of the policy in which they stand so. */
export async function listRules(asker: Asker): Promise<{ items: RuleLine[], version: number }> {
  const { number: version } = await currentVersion()
  const rows = (await db().select().from(rules).where(isNull(rules.toVersion)).orderBy(asc(rules.rank), asc(rules.row))).filter(r =>
    seesClausesOf(asker, r.owner),
  )
  return { items: await linesOf(asker, rows), version }
}

/** One rule with its record. */
export async function openRule(asker: Asker, id: string): Promise<RuleLine & { record: RuleRecord }> {
  const row = await currentRule(asker, id)
  const [line] = await linesOf(asker, [row])
  return { ...line!, record: await recordOf(asker, ruleOf(row)) }
}

async function linesOf(asker: Asker, rows: (typeof rules.$inferSelect)[]): Promise<RuleLine[]> {
  if (!rows.length) return []
  const { policy } = await policyInForce()
  const n = (judgement: string) => sql<number>`count(distinct ${copies.id}) filter (where ${copies.judgement} ${sql.raw(judgement)})::int`
  const impacts = await db()
    .select({
      id: rulingClaims.clauseId,
      wanted: n('= \'wanted\''),
      unwanted: n('= \'unwanted\''),
      unjudged: n('is null'),
      last: sql<string | null>`max(${copies.receivedAt})`,
    })
    .from(rulingClaims)
    .innerJoin(copies, and(eq(copies.id, rulingClaims.copyId), eq(copies.rulingId, rulingClaims.rulingId), countableBy(asker)))
    .where(
      and(
        inArray(
          rulingClaims.clauseId,
          rows.map(r => r.id),
        ),
        inArray(rulingClaims.fate, ['decided', 'agreed', 'protected', 'placed', 'applied', 'watching']),
      ),
    )
    .groupBy(rulingClaims.clauseId)
  const ids = new Set(rows.map(r => r.id))
  const findings = await withMends((await findingsFor(asker)).filter(f => f.clause.kind === 'rule' && ids.has(f.clause.id)))
  return rows.map((r) => {
    const { id: _, last, ...impact } = impacts.find(i => i.id === r.id) ?? { id: r.id, wanted: 0, unwanted: 0, unjudged: 0, last: null }
    return {
      ...ruleOf(r),
      ownerName: ownerName(policy, r.owner),
      sentence: ruleSentence(ruleOf(r), policy),
      impact,
      lastHit: last === null ? null : new Date(last).toISOString(),
      findings: findings.filter(f => f.clause.id === r.id),
      version: r.fromVersion,
      mayChange: mayChange(asker, r.owner),
    }
  })
}

async function currentRule(asker: Asker, id: string): Promise<typeof rules.$inferSelect> {
  const row = await standing(db(), rules, id)
  if (!row || !seesClausesOf(asker, row.owner)) throw notFound('rule of that name')
  return row
}

/** Makes a rule. One that protects starts on top of its owner's, any other at the end. */
export async function makeRule(asker: Asker, form: RuleForm): Promise<{ id: string } & Done> {
  const rule = checked<Rule>(ruleSchema, { ...form, id: randomUUID() })
  const { act, version } = await changeClauses(asker, [{ put: 'rule', rule }])
  return { id: rule.id, act, version }
}

/** Changes a rule; it keeps its place. */
export async function changeRule(asker: Asker, id: string, base: number, form: RuleForm): Promise<Done> {
  const before = await currentRule(asker, id)
  mustBeAllowed(asker, before.owner)
  const rule = checked<Rule>(ruleSchema, { ...form, id })
  const { act, version } = await changeClauses(asker, [{ put: 'rule', rule }], { base, what: `“${before.name}”` })
  return { act, version }
}

export async function removeRule(asker: Asker, id: string, base: number): Promise<Done> {
  const { name } = await currentRule(asker, id)
  const { act, version } = await changeClauses(asker, [{ remove: 'rule', id }], { base, what: `“${name}”` })
  return { act, version }
}

/**
 * Puts the rules of one owner into this order. All of them must be named, so that nobody's new rule is lost on the way.
 * @param base version of the policy when the order was seen: of two who order at the same time the second is told
 */
export async function orderRules(asker: Asker, owner: Owner, ids: readonly string[], base: number): Promise<Done> {
  const { act, version } = await changeClauses(asker, [{ order: owner, rules: [...ids] }], { base, what: 'The set of rules' })
  return { act, version }
}
