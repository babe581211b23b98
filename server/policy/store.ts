import { randomUUID } from 'node:crypto'
import { and, asc, eq, gt, inArray, isNull, sql } from 'drizzle-orm'
import {
  domainToAscii,
  isMailDomain,
  refersToList,
  refersToSet,
  type Claim,
  type Policy,
  type Rule,
  type List,
  type Binding,
  type Entry,
  type UpstreamMark,
} from '#core'
import { db, longDb, type Db, type Tx } from '../db/client'
import {
  addresses,
  bindings,
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
  trust,
  versions,
} from '../db/schema'
import { somebodyFaster } from '../platform/problem'
import { Turns } from '../platform/turns'

// One change of the policy at a time, on whatever process.
const LOCK = 0x50_be_01
export const POLICY_CHANNEL = 'policy'

export function newId(): string {
  return randomUUID()
}

/** The version in force, since when. */
export async function currentVersion(at: Db | Tx = db()): Promise<{ number: number, since: Date | null }> {
  const [row] = await at
    .select({ number: versions.number, since: versions.at })
    .from(versions)
    .orderBy(sql`${versions.number} desc`)
    .limit(1)
  return row ?? { number: 0, since: null }
}

/** The whole policy in force, with who is who and every entry. */
export async function loadPolicy(at: Db | Tx = db()): Promise<Policy> {
  return at.transaction(
    async (tx) => {
      const policy = await loadWithoutEntries(tx)
      const byList = new Map(policy.lists.map(l => [l.id, l.entries]))
      for await (const rows of entryPages(tx)) for (const row of rows) byList.get(row.listId)?.push(entryOf(row))
      return policy
    },
    { isolationLevel: 'repeatable read' },
  )
}

const ENTRIES_AT_ONCE = 20_000

/** The entries in force, page by page in the order in which they were added. */
export async function* entryPages(tx: Tx): AsyncGenerator<(typeof entries.$inferSelect)[]> {
  for (let after = 0; ;) {
    const rows = await tx
      .select()
      .from(entries)
      .where(and(isNull(entries.toVersion), gt(entries.row, after)))
      .orderBy(asc(entries.row))
      .limit(ENTRIES_AT_ONCE)
    if (rows.length) yield rows
    if (rows.length < ENTRIES_AT_ONCE) return
    after = rows.at(-1)!.row
  }
}

/** The policy in force with lists that hold no entries yet. */
export async function loadWithoutEntries(tx: Tx): Promise<Policy> {
  const version = await currentVersion(tx)
  const [domainRows, trustRows, departmentRows, peopleRows, addressRows, membershipRows] = [
    await tx.select().from(domains).orderBy(asc(domains.domain)),
    await tx.select().from(trust).orderBy(asc(trust.id)),
    await tx.select().from(departments).orderBy(asc(departments.id)),
    await tx.select({ id: people.id, name: people.name }).from(people).orderBy(asc(people.id)),
    await tx.select().from(addresses).orderBy(asc(addresses.address)),
    await tx.select().from(memberships).orderBy(asc(memberships.rank)),
  ]
  const kept = new Map((await tx.select().from(settings)).map(s => [s.key, s.value]))
  return {
    format: 'sober-gate-policy',
    formatVersion: 1,
    version: version.number,
    trust: {
      ownDomains: domainRows.map(d => d.domain),
      relays: trustRows.filter(t => t.kind === 'relay').map(t => ({ network: t.network, authservId: t.authservId ?? '' })),
      ownNetworks: trustRows.filter(t => t.kind === 'own network').map(t => t.network),
      publicProviders: (kept.get('public providers') ?? []) as string[],
      marks: (kept.get('upstream marks') ?? []) as UpstreamMark[],
    },
    departments: departmentRows.map(d => ({ id: d.id, name: d.name, ...(d.parentId ? { parent: d.parentId } : {}) })),
    people: peopleRows.map(p => ({
      id: p.id,
      name: p.name,
      addresses: addressRows.filter(a => a.personId === p.id).map(a => a.address),
      departments: membershipRows.filter(m => m.personId === p.id).map(m => m.departmentId),
    })),
    quarantines: (await tx.select().from(quarantines).where(isNull(quarantines.toVersion)).orderBy(asc(quarantines.row))).map(q => ({
      id: q.id,
      name: q.name,
      ...(q.general ? { general: true } : {}),
    })),
    lists: (await tx.select().from(lists).where(isNull(lists.toVersion)).orderBy(asc(lists.row))).map(l => ({
      id: l.id,
      name: l.name,
      owner: l.owner,
      usualSide: l.usualSide,
      on: l.on,
      entries: [],
    })),
    bindings: (await tx.select().from(bindings).where(isNull(bindings.toVersion)).orderBy(asc(bindings.row))).map(bindingOf),
    phraseSets: (await tx.select().from(phraseSets).where(isNull(phraseSets.toVersion)).orderBy(asc(phraseSets.row))).map(s => ({
      id: s.id,
      name: s.name,
      owner: s.owner,
      phrases: s.phrases,
      ...(s.minimum === null ? {} : { minimum: s.minimum }),
    })),
    rules: (await tx.select().from(rules).where(isNull(rules.toVersion)).orderBy(asc(rules.rank), asc(rules.row))).map(ruleOf),
  }
}

export function entryOf(e: typeof entries.$inferSelect): Entry {
  return strip({
    id: e.id,
    kind: e.kind,
    value: e.value,
    note: e.note,
    expires: e.expires?.toISOString(),
    addedAt: e.addedAt.toISOString(),
    addedBy: e.addedBy,
  })
}

export function bindingOf(b: typeof bindings.$inferSelect): Binding {
  return strip({
    id: b.id,
    list: b.listId,
    owner: b.owner,
    side: b.side,
    must: b.must || undefined,
    state: b.state,
    direction: b.direction,
    stop: b.stop,
    protect: b.protect,
    counts: b.counts,
  })
}

export function ruleOf(r: typeof rules.$inferSelect): Rule {
  return strip({
    id: r.id,
    name: r.name,
    description: r.description,
    group: r.group,
    owner: r.owner,
    must: r.must || undefined,
    raised: r.raised,
    state: r.state,
    direction: r.direction,
    when: r.when,
    except: r.except,
    claims: r.claims,
    end: r.end,
    expires: r.expires?.toISOString(),
    reviewOn: r.reviewOn?.toISOString(),
  })
}

// Leaves out what is not said, as the policy's JSON does.
function strip<T>(row: { [K in keyof T]: T[K] | null | undefined }): T {
  return Object.fromEntries(Object.entries(row).filter(([, v]) => v !== null && v !== undefined)) as T
}

/** A change of the policy in the making: every write goes through it and bears its version. */
export interface Change {
  tx: Tx
  version: number
}

/** What a change gives back where there was nothing to change: then no version is made. */
export class Unchanged<T> {
  constructor(readonly result: T) {}
}

// Those who wait for their turn hold no connection: many large changes at once would otherwise leave none for anybody's mail.
const turns = new Turns()

/**
 * Makes one change of the policy and puts it in force as a new version. What `make` throws undoes it whole. Whatever the change
 * depends on is asked inside `make`: what was read before may have been changed by whoever was first.
 * @param note what changed, in a sentence; as a function, told of the result
 */
export async function changePolicy<T>(
  by: string | null,
  owner: string,
  note: string | ((result: T) => string),
  make: (change: Change) => Promise<T | Unchanged<T>>,
  within?: Tx,
): Promise<T> {
  const run = async (tx: Tx) => {
    await tx.execute(sql`select pg_advisory_xact_lock(${LOCK})`)
    const before = await currentVersion(tx)
    const version = before.number + 1
    const result = await make({ tx, version })
    if (result instanceof Unchanged) return result.result
    const told = typeof note === 'function' ? note(result) : note
    await tx.insert(versions).values({ number: version, owner, parent: before.number || null, note: told, by })
    await tx.execute(sql`select pg_notify(${POLICY_CHANNEL}, ${String(version)})`)
    return result
  }
  return within ? run(within) : turns.take(by ?? '', () => longDb().transaction(run))
}

type Versioned = typeof lists | typeof entries | typeof bindings | typeof rules | typeof phraseSets | typeof quarantines

/** Ends rows of the version in force. */
export async function endRows(change: Change, table: Versioned, ids: readonly string[]): Promise<void> {
  if (ids.length)
    await change.tx
      .update(table)
      .set({ toVersion: change.version })
      .where(sql`${inArray(table.id, [...ids])} and ${isNull(table.toVersion)}`)
}

/** The row in force of that id, as it stands inside the change. */
export async function standing<Table extends Versioned>(change: Change, table: Table, id: string): Promise<Table['$inferSelect'] | null> {
  const [row] = await change.tx
    .select()
    .from(table as Versioned)
    .where(and(eq(table.id, id), isNull(table.toVersion)))
  return (row as Table['$inferSelect'] | undefined) ?? null
}

/** Refuses to go on where somebody changed a row after it was seen in that version. */
export async function mustStandAt(change: Change, table: Versioned, id: string, version: number, what: string): Promise<void> {
  const [now] = await change.tx
    .select({ fromVersion: table.fromVersion })
    .from(table)
    .where(and(eq(table.id, id), isNull(table.toVersion)))
  if (now?.fromVersion !== version) throw somebodyFaster(what)
}

export async function addList(change: Change, list: Omit<List, 'entries'>): Promise<void> {
  await change.tx.insert(lists).values({ ...list, fromVersion: change.version })
}

const ROWS_AT_ONCE = 10_000

/** Writes entries of a list; as one value of JSON each time, since there may be a million, and building a statement of them takes long. */
export async function addEntries(change: Change, listId: string, added: readonly Entry[]): Promise<void> {
  for (let i = 0; i < added.length; i += ROWS_AT_ONCE) {
    const rows = added.slice(i, i + ROWS_AT_ONCE).map(({ id, kind, value, note, expires, addedAt, addedBy }) => ({
      id,
      kind,
      value,
      note: note || null,
      expires: expires ? new Date(expires).toISOString() : null,
      added_at: addedAt ?? new Date().toISOString(),
      added_by: addedBy ?? null,
    }))
    await change.tx.execute(sql`
      insert into entries (id, list_id, from_version, kind, value, note, expires, added_at, added_by)
      select id, ${listId}, ${change.version}::int, kind, value, note, expires, added_at, added_by
      from jsonb_to_recordset(${JSON.stringify(rows)}::jsonb)
        as e(id text, kind text, value text, note text, expires timestamptz, added_at timestamptz, added_by text)`)
  }
}

export async function addBinding(change: Change, b: Binding): Promise<void> {
  await change.tx.insert(bindings).values({
    id: b.id,
    listId: b.list,
    owner: b.owner,
    side: b.side,
    must: b.must === true,
    state: b.state,
    direction: b.direction ?? 'inbound',
    stop: b.stop ?? null,
    protect: b.protect ?? null,
    counts: b.counts ?? null,
    fromVersion: change.version,
  })
}

export async function addRule(change: Change, r: Rule, rank: number): Promise<void> {
  await change.tx.insert(rules).values({
    id: r.id,
    name: r.name,
    description: r.description || null,
    group: r.group || null,
    owner: r.owner,
    must: r.must === true,
    raised: r.raised ?? null,
    state: r.state,
    direction: r.direction ?? 'inbound',
    when: r.when,
    except: r.except,
    claims: r.claims,
    end: r.end ?? null,
    expires: r.expires ? new Date(r.expires) : null,
    reviewOn: r.reviewOn ? new Date(r.reviewOn) : null,
    rank,
    fromVersion: change.version,
  })
}

/** What a clause refers to by its id. */
export type Referred = { list: string } | { set: string }

/**
 * A confirmation that mail may be gone for good lapses when what it was given for becomes wider: rules and bindings that
 * use the list or the phrase set go to the bin instead until somebody confirms them again. The checks tell their owners.
 */
export async function lapseConfirmations(change: Change, wider: Referred): Promise<void> {
  const bound =
    'list' in wider
      ? await change.tx
          .select()
          .from(bindings)
          .where(and(eq(bindings.listId, wider.list), isNull(bindings.toVersion)))
      : []
  for (const row of bound.filter(b => b.stop?.confirmed)) {
    await endRows(change, bindings, [row.id])
    await addBinding(change, { ...bindingOf(row), stop: { to: row.stop!.to } })
  }
  for (const row of await change.tx
    .select()
    .from(rules)
    .where(and(isNull(rules.toVersion), sql`${rules.claims} @? '$[*].stop.confirmed ? (@ == true)'`))) {
    const rule = ruleOf(row)
    if (!('list' in wider ? refersToList(rule, wider.list) : refersToSet(rule, wider.set))) continue
    await endRows(change, rules, [row.id])
    await addRule(change, { ...rule, claims: unconfirmed(rule.claims) }, row.rank)
  }
}

/** The same claims without a confirmation. */
export function unconfirmed(claims: readonly Claim[]): Claim[] {
  return claims.map(c => ('stop' in c && c.stop.confirmed ? { stop: { to: c.stop.to } } : c))
}

/** Puts a whole set of clauses in force in place of the one there is. Who is who stays as it is. */
export async function replaceClauses(
  change: Change,
  policy: Pick<Policy, 'quarantines' | 'lists' | 'bindings' | 'phraseSets' | 'rules'>,
): Promise<void> {
  for (const table of [lists, entries, bindings, rules, phraseSets, quarantines]) {
    await change.tx.update(table).set({ toVersion: change.version }).where(isNull(table.toVersion))
  }
  for (const q of policy.quarantines)
    await change.tx.insert(quarantines).values({ id: q.id, name: q.name, general: q.general === true, fromVersion: change.version })
  for (const { entries: own, ...list } of policy.lists) {
    await addList(change, list)
    await addEntries(change, list.id, own)
  }
  for (const b of policy.bindings) await addBinding(change, b)
  for (const s of policy.phraseSets)
    await change.tx
      .insert(phraseSets)
      .values({ id: s.id, name: s.name, owner: s.owner, phrases: s.phrases, minimum: s.minimum ?? null, fromVersion: change.version })
  for (const [rank, rule] of policy.rules.entries()) await addRule(change, rule, rank)
}

/** Writes down our own domains; what no mail can be for is left out and given back. */
export async function addDomains(tx: Tx, names: readonly string[]): Promise<string[]> {
  const wrong: string[] = []
  for (const name of names) {
    const domain = domainToAscii(name)
    if (domain && isMailDomain(domain)) await tx.insert(domains).values({ domain }).onConflictDoNothing()
    else wrong.push(name)
  }
  return wrong
}
