import isSame from 'fast-deep-equal'
import { and, asc, eq, inArray, isNull, sql } from 'drizzle-orm'
import { ownerName, ruleProtects, ruleSchema, type Finding, type Owner, type Rule } from '#core'
import { ruleSentence } from '#core/words'
import { db } from '../db/client'
import { copies, rulingClaims, rules } from '../db/schema'
import { checked } from '../platform/checked'
import { checkClaims, mustBeInPower } from '../access/clause-limits'
import { countableBy } from '../access/copy-access'
import { findingsFor } from './findings'
import { mayChange, mustBeAllowed, mustBeSomebody, seesClausesOf } from '../access/ownership'
import type { Asker } from '../access/roles'
import {
  addRule,
  changePolicy,
  currentVersion,
  endRows,
  mustStandAt,
  newId,
  ruleOf,
  standing,
  unconfirmed,
  Unchanged,
  type Change,
} from './store'
import { policyInForce, refreshPolicy } from './in-force'
import { invalid, notFound, somebodyFaster } from '../platform/problem'
import { mustFit } from '../access/quota'
import { mustHoldReferences } from './references'

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
  /** What the checks find in it. */
  findings: Finding[]
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

export async function openRule(asker: Asker, id: string): Promise<RuleLine> {
  const [line] = await linesOf(asker, [await currentRule(asker, id)])
  return line!
}

async function linesOf(asker: Asker, rows: (typeof rules.$inferSelect)[]): Promise<RuleLine[]> {
  if (!rows.length) return []
  const { policy } = await policyInForce()
  const n = (judgement: string) => sql<number>`count(distinct ${copies.id}) filter (where ${copies.judgement} ${sql.raw(judgement)})::int`
  const impacts = await db()
    .select({ id: rulingClaims.clauseId, wanted: n('= \'wanted\''), unwanted: n('= \'unwanted\''), unjudged: n('is null') })
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
  const findings = (await findingsFor(asker)).filter(f => f.clause.kind === 'rule')
  return rows.map((r) => {
    const { id: _, ...impact } = impacts.find(i => i.id === r.id) ?? { id: r.id, wanted: 0, unwanted: 0, unjudged: 0 }
    return {
      ...ruleOf(r),
      ownerName: ownerName(policy, r.owner),
      sentence: ruleSentence(ruleOf(r), policy),
      impact,
      findings: findings.filter(f => f.clause.id === r.id),
      version: r.fromVersion,
      mayChange: mayChange(asker, r.owner),
    }
  })
}

async function currentRule(asker: Asker, id: string): Promise<typeof rules.$inferSelect> {
  const [row] = await db()
    .select()
    .from(rules)
    .where(and(eq(rules.id, id), isNull(rules.toVersion)))
  if (!row || !seesClausesOf(asker, row.owner)) throw notFound('rule of that name')
  return row
}

/** Makes a rule. One that protects starts on top of its owner's, any other at the end. */
export async function makeRule(asker: Asker, form: RuleForm): Promise<{ id: string }> {
  const rule = checkedRule(asker, { ...form, id: newId() })
  const { policy } = await policyInForce()
  mustBeSomebody(policy, rule.owner)
  mustBeAllowed(asker, rule.owner)
  await changePolicy(asker.id, rule.owner, `Rule “${rule.name}” made, ${rule.state}`, async (change) => {
    await mayStand(change, asker, rule)
    const [edge] = await change.tx
      .select({ top: sql<number>`coalesce(min(${rules.rank}), 0)::int`, end: sql<number>`coalesce(max(${rules.rank}), 0)::int` })
      .from(rules)
      .where(and(eq(rules.owner, rule.owner), isNull(rules.toVersion)))
    await addRule(change, rule, ruleProtects(rule) ? edge!.top - 1 : edge!.end + 1)
    await mustFit(change, asker, rule.owner, 'rules')
  })
  await refreshPolicy()
  return { id: rule.id }
}

/** Changes a rule; it keeps its place. */
export async function changeRule(asker: Asker, id: string, version: number, form: RuleForm): Promise<void> {
  const before = await currentRule(asker, id)
  mustBeAllowed(asker, before.owner)
  if (form.owner !== before.owner)
    throw invalid('A rule stays with its owner; make a copy for somebody else.', { owner: 'This cannot be changed.' })
  const rule = checkedRule(asker, { ...form, id })
  await changePolicy(
    asker.id,
    before.owner,
    `Rule “${rule.name}” changed${rule.state === before.state ? '' : `: now ${rule.state}`}`,
    async (change) => {
      await mustStandAt(change, rules, id, version, `“${before.name}”`)
      const row = (await standing(change, rules, id))!
      await mayStand(change, asker, rule)
      // What was confirmed was the rule as it stood; changed, it is confirmed anew by saving it once more.
      const changed = !isSame(rule.when, row.when) || !isSame(rule.except, row.except)
      if (changed && row.claims.some(c => 'stop' in c && c.stop.confirmed)) rule.claims = unconfirmed(rule.claims)
      await endRows(change, rules, [id])
      await addRule(change, rule, row.rank)
      await mustFit(change, asker, rule.owner, 'rules')
    },
  )
  await refreshPolicy()
}

export async function removeRule(asker: Asker, id: string, version: number): Promise<void> {
  const row = await currentRule(asker, id)
  mustBeAllowed(asker, row.owner)
  await changePolicy(asker.id, row.owner, `Rule “${row.name}” deleted`, async (change) => {
    await mustStandAt(change, rules, id, version, `“${row.name}”`)
    await endRows(change, rules, [id])
  })
  await refreshPolicy()
}

/**
 * Puts the rules of one owner into this order. All of them must be named, so that nobody's new rule is lost on the way.
 * @param version of the policy when the order was seen: of two who order at the same time the second is told
 */
export async function orderRules(asker: Asker, owner: Owner, ids: readonly string[], version: number): Promise<void> {
  mustBeAllowed(asker, owner)
  await changePolicy(asker.id, owner, 'Rules put in another order', async (change) => {
    const rows = await change.tx
      .select()
      .from(rules)
      .where(and(eq(rules.owner, owner), isNull(rules.toVersion)))
      .orderBy(asc(rules.rank), asc(rules.row))
    const byId = new Map(rows.map(r => [r.id, r]))
    if (rows.length !== ids.length || !ids.every(id => byId.has(id)) || rows.some(r => r.fromVersion > version))
      throw somebodyFaster('The set of rules')
    if (rows.every((r, i) => r.id === ids[i])) return new Unchanged(undefined)
    await endRows(change, rules, ids)
    for (const [rank, id] of ids.entries()) await addRule(change, ruleOf(byId.get(id)!), rank)
  })
  await refreshPolicy()
}

function checkedRule(asker: Asker, form: Rule): Rule {
  const rule = checked<Rule>(ruleSchema, form)
  checkClaims(rule.claims)
  mustBeInPower(asker, rule.owner, rule.claims)
  return rule
}

async function mayStand(change: Change, asker: Asker, rule: Rule): Promise<void> {
  await mustHoldReferences(change, asker, { rule })
  const same = await change.tx
    .select({ id: rules.id })
    .from(rules)
    .where(and(eq(rules.owner, rule.owner), sql`lower(${rules.name}) = lower(${rule.name})`, isNull(rules.toVersion)))
  if (same.some(r => r.id !== rule.id))
    throw invalid(`There is a rule “${rule.name}” already.`, { name: 'This name is taken. Choose another.' })
}
