import { and, asc, eq, gt, isNull, lte, or, sql, type SQL } from 'drizzle-orm'
import type { PgColumn } from 'drizzle-orm/pg-core'
import type { Policy, UpstreamVerdict } from '#core'
import { db, type Db, type Tx } from '../db/client'
import {
  addresses,
  assignments,
  departments,
  domains,
  entries,
  lists,
  memberships,
  people,
  phraseSets,
  quarantines,
  rules,
  settings,
  thresholds,
  trust,
  versions,
} from '../db/schema'
import { assignmentOf, entryOf, listOf, phraseSetOf, quarantineOf, ruleOf, thresholdOf } from './rows'
import { DEFAULT_VERIFICATION, VERIFICATION, type VerificationSettings } from '../db/settings'
import { dnsIsOff } from '../platform/variables'
import { PUBLIC_PROVIDERS } from './public-providers'

export const POLICY_CHANNEL = 'policy'

/** The active version, and since when. */
export async function currentVersion(at: Db | Tx = db()): Promise<{ number: number, since: Date | null }> {
  const [row] = await at
    .select({ number: versions.number, since: versions.at })
    .from(versions)
    .orderBy(sql`${versions.number} desc`)
    .limit(1)
  return row ?? { number: 0, since: null }
}

/** The whole policy active, with who is who and every entry. */
export async function loadPolicy(at: Db | Tx = db()): Promise<Policy> {
  return at.transaction(async tx => loadAt(tx, (await currentVersion(tx)).number), { isolationLevel: 'repeatable read' })
}

/** The whole policy as it was active in that version. Who is who is as it is now: people are not counted by versions. */
export async function loadAt(tx: Tx, version: number): Promise<Policy> {
  const policy = await loadWithoutEntries(tx, version)
  const byList = new Map(policy.lists.map(l => [l.id, l.entries]))
  for await (const rows of entryPages(tx, version)) for (const row of rows) byList.get(row.listId)?.push(entryOf(row))
  return policy
}

const ENTRY_BATCH_SIZE = 20_000

/** The entries of a version, page by page in the order in which they were added. */
async function* entryPages(tx: Tx, version: number): AsyncGenerator<(typeof entries.$inferSelect)[]> {
  for (let after = 0; ;) {
    const rows = await tx
      .select()
      .from(entries)
      .where(and(standsIn(entries, version), gt(entries.row, after)))
      .orderBy(asc(entries.row))
      .limit(ENTRY_BATCH_SIZE)
    if (rows.length) yield rows
    if (rows.length < ENTRY_BATCH_SIZE) return
    after = rows.at(-1)!.row
  }
}

interface VersionedColumns {
  fromVersion: PgColumn
  toVersion: PgColumn
}

/** Rows that were active in a version. */
export function standsIn({ fromVersion, toVersion }: VersionedColumns, version: number): SQL | undefined {
  return and(lte(fromVersion, version), or(isNull(toVersion), gt(toVersion, version)))
}

/** The active policy, or as it was in a version, with lists that hold no entries yet. */
export async function loadWithoutEntries(tx: Tx, at?: number): Promise<Policy> {
  const version = at ?? (await currentVersion(tx)).number
  const [domainRows, trustRows, departmentRows, peopleRows, addressRows, membershipRows] = [
    await tx.select().from(domains).orderBy(asc(domains.domain)),
    await tx.select().from(trust).orderBy(asc(trust.id)),
    await tx.select().from(departments).orderBy(asc(departments.id)),
    await tx.select({ id: people.id, name: people.name }).from(people).orderBy(asc(people.id)),
    await tx.select().from(addresses).orderBy(asc(addresses.address)),
    await tx.select().from(memberships).orderBy(asc(memberships.rank)),
  ]
  const kept = new Map((await tx.select().from(settings)).map(s => [s.key, s.value]))
  const [quarantineRows, listRows, assignmentRows, setRows, ruleRows, thresholdRows] = [
    await tx.select().from(quarantines).where(standsIn(quarantines, version)).orderBy(asc(quarantines.row)),
    await tx.select().from(lists).where(standsIn(lists, version)).orderBy(asc(lists.row)),
    await tx.select().from(assignments).where(standsIn(assignments, version)).orderBy(asc(assignments.row)),
    await tx.select().from(phraseSets).where(standsIn(phraseSets, version)).orderBy(asc(phraseSets.row)),
    await tx.select().from(rules).where(standsIn(rules, version)).orderBy(asc(rules.rank), asc(rules.row)),
    await tx.select().from(thresholds).where(standsIn(thresholds, version)),
  ]
  return {
    format: 'sober-gate-policy',
    formatVersion: 3,
    version,
    trust: {
      ownDomains: domainRows.map(d => d.domain),
      relays: trustRows.filter(t => t.kind === 'relay').map(t => ({ network: t.network, authservId: t.authservId ?? '' })),
      ownNetworks: trustRows.filter(t => t.kind === 'ownNetwork').map(t => t.network),
      publicProviders: [...((kept.get('publicProviders') ?? PUBLIC_PROVIDERS) as string[])],
      upstreamVerdicts: (kept.get('upstreamVerdicts') ?? []) as UpstreamVerdict[],
      ownVerification: !dnsIsOff() && ((kept.get(VERIFICATION) ?? DEFAULT_VERIFICATION) as VerificationSettings).enabled,
    },
    departments: departmentRows.map(d => ({ id: d.id, name: d.name, ...(d.parentId ? { parent: d.parentId } : {}) })),
    people: peopleRows.map(p => ({
      id: p.id,
      name: p.name,
      addresses: addressRows.filter(a => a.personId === p.id).map(a => a.address),
      departments: membershipRows.filter(m => m.personId === p.id).map(m => m.departmentId),
    })),
    quarantines: quarantineRows.map(quarantineOf),
    lists: listRows.map(listOf),
    assignments: assignmentRows.map(assignmentOf),
    phraseSets: setRows.map(phraseSetOf),
    rules: ruleRows.map(ruleOf),
    ...(thresholdRows.length ? { thresholds: Object.fromEntries(thresholdRows.map(thresholdOf).map(({ id, ...t }) => [id, t])) } : {}),
  }
}

/** The row active of that id. */
export async function standing<Table extends typeof lists | typeof assignments | typeof rules | typeof phraseSets>(
  at: Db | Tx,
  table: Table,
  id: string,
): Promise<Table['$inferSelect'] | null> {
  const [row] = await at
    .select()
    .from(table as typeof rules)
    .where(and(eq(table.id, id), isNull(table.toVersion)))
  return (row as Table['$inferSelect'] | undefined) ?? null
}
