import { and, isNull, or, sql } from 'drizzle-orm'
import { departmentIn, type Owner } from '#core'
import { assignmentSentence, ruleSentence, STATE_NAMES, type Names } from '#core/words'
import { counted, quoted } from '#core/wording'
import { seesClausesOf } from '../access/ownership'
import type { Actor } from '../access/roles'
import { isAnyOf } from '../db/asking'
import { db } from '../db/client'
import { assignments, departments, lists, phraseSets, quarantines, rules } from '../db/schema'
import { assignmentOf, listOf, phraseSetOf, quarantineOf, ruleOf } from '../policy/rows'
import { MAX_TARGETS, type EventTarget, type EventTargets } from './targets'

/** A rule or a list, whose part of the audit log is asked for. */
export interface ClauseRef {
  kind: 'rule' | 'list'
  id: string
}

interface Touched {
  version: number
  kind: 'rule' | 'list' | 'assignment' | 'phraseSet' | 'quarantine'
  id: string
  /** Of a list how many of its entries were added and removed. */
  added: number
  removed: number
}

/**
 * What versions of the policy changed, by version: rules and lists with their sentences before and after. Clauses that are not theirs to
 * see are left out.
 * @param only of this one alone
 */
export async function clauseTargets(
  actor: Actor,
  versions: readonly number[],
  only: ClauseRef | null = null,
): Promise<Map<number, EventTargets>> {
  if (!versions.length) return new Map()
  const touched = await touchedIn(versions, only)
  const tell = await teller(actor, versions, touched)
  const out = new Map<number, EventTargets>()
  for (const one of touched) {
    const target = tell(one)
    if (!target) continue
    const those = out.get(one.version) ?? { targets: [], more: 0 }
    out.set(one.version, those)
    if (those.targets.length < MAX_TARGETS) those.targets.push(target)
    else those.more++
  }
  return out
}

/** The versions that changed a rule, or a list with its entries and assignments. */
export function versionsOf({ kind, id }: ClauseRef) {
  const of = (table: string, column: string) => sql`
    select from_version from ${sql.identifier(table)} where ${sql.identifier(column)} = ${id}
    union select to_version from ${sql.identifier(table)} where ${sql.identifier(column)} = ${id} and to_version is not null`
  if (kind === 'rule') return of('rules', 'id')
  return sql`${of('lists', 'id')} union ${of('assignments', 'list_id')} union ${of('entries', 'list_id')}`
}

/** A version that moves thousands, as when somebody's lists and rules go to another, is read as far as it is told. */
const MAX_READ = 40

async function touchedIn(versions: readonly number[], only: ClauseRef | null): Promise<Touched[]> {
  const numbers = sql`any(${sql.param([...versions])}::int[])`
  const begunOrEnded = (table: string, column: string) => sql`
    select from_version as version, ${sql.identifier(column)} as id, true as begun
      from ${sql.identifier(table)} where from_version = ${numbers}
    union all select to_version, ${sql.identifier(column)}, false from ${sql.identifier(table)} where to_version = ${numbers}`
  const kinds = [
    ['rule', 'rules'],
    ['list', 'lists'],
    ['assignment', 'assignments'],
    ['phraseSet', 'phrase_sets'],
    ['quarantine', 'quarantines'],
  ]
  const clauses = kinds.map(([kind, table]) => sql`
    select distinct version, ${kind}::text as kind, id, 0 as added, 0 as removed from (${begunOrEnded(table!, 'id')}) c`)
  const { rows } = await db().execute<{ version: number, kind: Touched['kind'], id: string, added: number, removed: number }>(sql`
    select version, kind, id, added::int, removed::int from (
      select *, row_number() over (partition by version order by added + removed desc, kind, id) as place from (
        select version, kind, id, sum(added) as added, sum(removed) as removed from (
          ${sql.join(clauses, sql` union all `)}
          union all
          select version, 'list', id, count(*) filter (where begun), count(*) filter (where not begun)
            from (${begunOrEnded('entries', 'list_id')}) e group by version, id
        ) t group by version, kind, id
      ) s ${only ? sql`where ${isOf(only)}` : sql``}
    ) r where place <= ${MAX_READ} order by version, kind = 'list', place`)
  return rows
}

// A list's assignments belong to its history.
function isOf({ kind, id }: ClauseRef) {
  const own = sql`(kind = ${kind} and id = ${id})`
  return kind === 'rule' ? own : sql`(${own} or (kind = 'assignment' and id in (select id from assignments where list_id = ${id})))`
}

/** Reads the rows that these name, as they were and as they are, and puts them into words. */
async function teller(actor: Actor, versions: readonly number[], touched: readonly Touched[]) {
  const idsOf = (kind: Touched['kind']) => [...new Set(touched.filter(t => t.kind === kind).map(t => t.id))]
  type Versioned = typeof rules | typeof lists | typeof assignments | typeof phraseSets | typeof quarantines
  const around = (table: Versioned, ids: readonly string[]) =>
    and(isAnyOf(table.id, ids), or(isAnyOf(table.fromVersion, versions), isAnyOf(table.toVersion, versions), isNull(table.toVersion)))
  const assignmentRows = await db().select().from(assignments).where(around(assignments, idsOf('assignment')))
  const listIds = [...idsOf('list'), ...assignmentRows.map(a => a.listId)]
  const all = {
    rule: await db().select().from(rules).where(around(rules, idsOf('rule'))),
    list: await db().select().from(lists).where(isAnyOf(lists.id, listIds)).orderBy(lists.row),
    assignment: assignmentRows,
    phraseSet: await db().select().from(phraseSets).where(around(phraseSets, idsOf('phraseSet'))),
    quarantine: await db().select().from(quarantines).where(around(quarantines, idsOf('quarantine'))),
  }
  const names = await namesOf(actor)
  const departmentNames = new Map((await db().select().from(departments)).map(d => [d.id, d.name]))
  const ownerName = (owner: Owner) => {
    const department = departmentIn(owner)
    return department === null ? (owner === 'organisation' ? 'organisation' : 'you') : (departmentNames.get(department) ?? department)
  }
  type Between = { id: string, fromVersion: number, toVersion: number | null }
  const at = <Row extends Between>(rows: readonly Row[], { id, version }: Touched) => {
    const own = rows.filter(r => r.id === id)
    return {
      before: own.find(r => r.toVersion === version) ?? null,
      after: own.find(r => r.fromVersion === version) ?? null,
      now: own.find(r => r.toVersion === null) ?? null,
      newest: own.at(-1) ?? null,
    }
  }
  const sees = (row: { owner: string } | null | undefined) => !row || seesClausesOf(actor, row.owner as Owner)

  return (one: Touched): EventTarget | null => {
    switch (one.kind) {
      case 'rule': {
        const { before, after, now } = at(all.rule, one)
        if (![before, after].every(sees)) return null
        const words = (row: typeof before) => row && stateWords(row.state, ruleSentence(ruleOf(row), names))
        return { name: `Rule ${quoted((after ?? before)!.name)}`, to: now && `/rules/${one.id}`, ...changed(words(before), words(after)) }
      }
      case 'assignment': {
        const { before, after } = at(all.assignment, one)
        const row = (after ?? before)!
        if (![before, after].every(sees)) return null
        const list = at(all.list, { ...one, id: row.listId })
        const words = (a: typeof before) =>
          a && stateWords(a.state, assignmentSentence(assignmentOf(a), names, ownerName(a.owner)))
        return {
          name: `List ${quoted(list.newest?.name ?? '')}, assignment`,
          to: list.now && `/lists/${row.listId}`,
          ...changed(words(before), words(after)),
        }
      }
      case 'list': {
        const { before, after, now, newest } = at(all.list, one)
        if (!newest || !sees(newest)) return null
        const words = (row: typeof before) => row && stateWords(listOf(row).enabled ? 'enabled' : 'disabled', `List ${quoted(row.name)}.`)
        const entries = [
          ...(one.added ? [`${counted(one.added, 'entry', 'entries')} added`] : []),
          ...(one.removed ? [`${counted(one.removed, 'entry', 'entries')} removed`] : []),
        ].join(', ')
        const name = `List ${quoted((after ?? before ?? newest).name)}${entries ? `: ${entries}` : ''}`
        return { name, to: now && `/lists/${one.id}`, ...(before && after ? changed(words(before), words(after)) : {}) }
      }
      case 'phraseSet': {
        const { before, after, now } = at(all.phraseSet, one)
        if (![before, after].every(sees)) return null
        const words = (row: typeof before) => row && `${counted(phraseSetOf(row).phrases.length, 'phrase')}.`
        return { name: `Phrase set ${quoted((after ?? before)!.name)}`, to: now && '/lists', ...changed(words(before), words(after)) }
      }
      case 'quarantine': {
        const { before, after, now } = at(all.quarantine, one)
        const words = (row: typeof before) => row && `Quarantine ${quoted(quarantineOf(row).name)}.`
        return {
          name: `Quarantine ${quoted((after ?? before)!.name)}`,
          to: now && '/settings/quarantines',
          ...changed(words(before), words(after)),
        }
      }
    }
  }
}

const stateWords = (state: keyof typeof STATE_NAMES, sentence: string) =>
  (state === 'enabled' ? sentence : `${sentence} (${STATE_NAMES[state]})`)

/** What says the same before and after tells nothing: then something else of it changed, as its place. */
function changed(before: string | null, after: string | null) {
  return before === after ? {} : { before, after }
}

/** Names that sentences need; also of what is no longer there, as long as it is theirs to see. */
async function namesOf(actor: Actor): Promise<Names> {
  const listRows = (await db().select().from(lists).orderBy(lists.row)).filter(l => seesClausesOf(actor, l.owner as Owner))
  const setRows = (await db().select().from(phraseSets).orderBy(phraseSets.row)).filter(s => seesClausesOf(actor, s.owner as Owner))
  const quarantineRows = await db().select().from(quarantines).orderBy(quarantines.row)
  const newest = <T extends { id: string }>(things: T[]) => [...new Map(things.map(t => [t.id, t])).values()]
  return {
    lists: newest(listRows.map(listOf)),
    phraseSets: newest(setRows.map(phraseSetOf)),
    quarantines: newest(quarantineRows.map(quarantineOf)),
  }
}
