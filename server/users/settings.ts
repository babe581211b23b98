import { and, asc, eq, isNull, sql } from 'drizzle-orm'
import isSame from 'fast-deep-equal'
import { domainToAscii, isMailDomain, rulesReferences, type Policy, type UpstreamVerdict } from '#core'
import { counted } from '#core/wording'
import { recordEvent } from '../audit/record'
import type { Actor } from '../access/roles'
import { db, type Db, type Tx } from '../db/client'
import { LOCK_NUMBERS } from '../db/lock-numbers'
import type { auditEvents } from '../db/schema'
import { DEFAULT_VERIFICATION, setting, TIME_ZONE, VERIFICATION, type VerificationSettings } from '../db/settings'
import { departments, domains, lists, memberships, phraseSets, rules, settings, trust } from '../db/schema'
import { invalid, conflict } from '../platform/problem'
import { activePolicy, refreshPeople } from '../policy/active-policy'
import { allQuarantineSettings, quarantineVersions, type QuarantineSettings } from '../policy/quarantine-settings'
import { SETTINGS_PARTS, DEFAULT_RETENTION, type SettingsForm, type SettingsPart, type Settings, type Retention } from './settings-form'
import { listening, type ListeningView } from './listening'
import { missingIn, type Missing } from './missing'
import { forgetVerificationSettings } from '../verification/dns-servers'
import { verifyingView, type VerifyingView } from '../verification/sender-tests'
import { PUBLIC_PROVIDERS } from '../policy/public-providers'

/** A whole installation, for whoever sets it up. */
export interface SettingsView extends Settings {
  /** Counted up by every change of it. */
  version: number
  quarantines: (Policy['quarantines'][number] & QuarantineSettings & { version: number })[]
  /** Where the product listens. */
  listening: ListeningView
  /** Whether senders are verified here, and can be at present. */
  verifying: VerifyingView
  /** What it cannot do without, or not well; the gravest first. */
  missing: Missing[]
}

const VERSION = 'settingsVersion'
const KEPT: Partial<Record<SettingsPart, { key: string, unless: unknown }>> = {
  upstreamVerdicts: { key: 'upstreamVerdicts', unless: [] },
  publicProviders: { key: 'publicProviders', unless: PUBLIC_PROVIDERS },
  timeZone: { key: TIME_ZONE, unless: 'UTC' },
  publicAddress: { key: 'publicAddress', unless: '' },
  retention: { key: 'retention', unless: DEFAULT_RETENTION },
  verification: { key: VERIFICATION, unless: DEFAULT_VERIFICATION },
}

export async function openSettings(): Promise<SettingsView> {
  const all = await readSettings(db())
  const { policy } = await activePolicy()
  const settled = await allQuarantineSettings()
  const versions = await quarantineVersions(db())
  const listens = listening()
  const verifying = await verifyingView()
  return {
    ...all,
    quarantines: policy.quarantines.map(q => ({ ...q, ...settled(q.id), version: versions.get(q.id) ?? 0 })),
    listening: listens,
    verifying,
    missing: await missingIn(all, listens, verifying),
  }
}

async function readSettings(at: Db | Tx): Promise<Settings & { version: number }> {
  const kept = new Map((await at.select().from(settings)).map(s => [s.key, s.value]))
  const keptOf = <T>(part: SettingsPart) => (kept.get(KEPT[part]!.key) ?? KEPT[part]!.unless) as T
  const trusted = await at.select().from(trust).orderBy(asc(trust.id))
  const rows = await at.select().from(departments).orderBy(asc(departments.id))
  return {
    version: (kept.get(VERSION) as number | undefined) ?? 0,
    domains: (await at.select().from(domains).orderBy(asc(domains.domain))).map(d => d.domain),
    departments: rows.map(d => ({ id: d.id, name: d.name, parent: d.parentId })),
    relays: trusted.filter(t => t.kind === 'relay').map(t => ({ network: t.network, authservId: t.authservId ?? '' })),
    ownNetworks: trusted.filter(t => t.kind === 'ownNetwork').map(t => t.network),
    upstreamVerdicts: keptOf<UpstreamVerdict[]>('upstreamVerdicts'),
    publicProviders: keptOf<string[]>('publicProviders'),
    timeZone: keptOf<string>('timeZone'),
    publicAddress: keptOf<string>('publicAddress'),
    retention: keptOf<Retention>('retention'),
    verification: keptOf<VerificationSettings>('verification'),
  }
}

/** How long things are kept. */
export async function retention(): Promise<Retention> {
  return setting(KEPT.retention!.key, DEFAULT_RETENTION)
}

/** The origin under which people reach this installation, or empty. */
export async function publicAddress(): Promise<string> {
  return setting(KEPT.publicAddress!.key, '')
}

/** What a change of the house came to. */
export interface SettingsChanged {
  eventId: number | null
  version: number
}

/** An act that is undone, and what it had left. */
interface Undoing {
  eventId: number
  left: Partial<Settings>
}

/** Whether mail may be kept for a shorter time: refuses where it deletes messages and their number was not said. */
type MayKeep = (tx: Tx, before: Retention, after: Retention, said: number | undefined) => Promise<void>

/**
 * Changes settings, all or none, as one event.
 * @param seen the version in which the caller saw them, or the event that is undone
 * @throws 409 where they were changed since
 */
async function writeSettings(
  actor: Actor,
  asked: Partial<Settings>,
  seen: (Pick<SettingsForm, 'version' | 'confirmed'> | Undoing) & { mayKeep: MayKeep },
): Promise<SettingsChanged> {
  const undoes = 'eventId' in seen ? seen.eventId : undefined
  const done = await db().transaction(async (tx) => {
    await tx.execute(sql`select pg_advisory_xact_lock(${LOCK_NUMBERS.settings})`)
    const before = await readSettings(tx)
    // Asked inside the lock: of two who undo or change the same at the same time the second finds what the first one left.
    if ('version' in seen && before.version !== seen.version) throw conflict('These settings')
    if ('left' in seen) mustBeAsLeft(before, seen.left)
    const after = await checkedParts(tx, asked)
    const parts = SETTINGS_PARTS.filter(part => after[part] !== undefined && !isSame(after[part], before[part]))
    if (!parts.length) return { eventId: null, version: before.version }
    if (parts.includes('retention'))
      await seen.mayKeep(tx, before.retention, after.retention!, 'confirmed' in seen ? seen.confirmed?.erases : undefined)
    for (const part of parts) await write(tx, part, after, before)
    await put(tx, VERSION, before.version + 1)
    const pick = (from: Partial<Settings>) => Object.fromEntries(parts.map(part => [part, from[part]]))
    const eventId = await recordEvent(tx, {
      personId: actor.id,
      kind: undoes === undefined ? 'changedSettings' : 'undone',
      detail: {
        parts,
        before: pick(before),
        after: pick(await readSettings(tx)),
      },
      undoes,
    })
    return { eventId, version: before.version + 1 }
  })
  if (done.eventId !== null) {
    forgetVerificationSettings()
    await refreshPeople()
  }
  return done
}

/** Changes settings, as they were seen in a version. */
export function changeSettings(actor: Actor, { version, confirmed, ...asked }: SettingsForm, mayKeep: MayKeep): Promise<SettingsChanged> {
  return writeSettings(actor, asked, { version, confirmed, mayKeep })
}

/** Undoes a change of settings, as long as nobody changed the same parts since, and no mail is deleted by it. */
export function undoSettings(
  actor: Actor,
  auditEvent: Pick<typeof auditEvents.$inferSelect, 'id' | 'detail'>,
  mayKeep: MayKeep,
): Promise<SettingsChanged> {
  const { before, after } = auditEvent.detail as { before: Partial<Settings>, after: Partial<Settings> }
  return writeSettings(actor, before, { eventId: auditEvent.id, left: after, mayKeep })
}

function mustBeAsLeft(now: Settings, left: Partial<Settings>): void {
  for (const part of SETTINGS_PARTS)
    if (left[part] !== undefined && !isSame(left[part], now[part])) throw conflict(`The setting “${SETTINGS_PART_NAMES[part]}”`)
}

/** What each part is called within a sentence. */
export const SETTINGS_PART_NAMES: Record<SettingsPart, string> = {
  domains: 'own domains',
  departments: 'departments',
  relays: 'trusted relays',
  ownNetworks: 'own networks',
  upstreamVerdicts: 'upstream filter headers',
  publicProviders: 'public mailbox providers',
  timeZone: 'time zone',
  publicAddress: 'web address',
  retention: 'retention',
  verification: 'sender verification',
}

/** "changed our domains and the time zone". */
export function settingsWords({ parts }: Record<string, unknown>): string {
  const named = (parts as SettingsPart[]).map(part => SETTINGS_PART_NAMES[part])
  return `changed ${named.length > 1 ? `${named.slice(0, -1).join(', ')} and ${named.at(-1)}` : named[0]}`
}

async function checkedParts(tx: Tx, asked: Partial<Settings>): Promise<Partial<Settings>> {
  const out = { ...asked }
  if (asked.domains) out.domains = domainsOf(asked.domains, 'domains').sort()
  if (asked.publicProviders) out.publicProviders = domainsOf(asked.publicProviders, 'publicProviders')
  if (asked.departments) out.departments = await departmentsOf(tx, asked.departments)
  if (asked.upstreamVerdicts) await mustNotBeAsked(asked.upstreamVerdicts)
  if (asked.ownNetworks) out.ownNetworks = [...new Set(asked.ownNetworks)]
  return out
}

function domainsOf(names: readonly string[], field: string): string[] {
  const out = new Set<string>()
  names.forEach((name, i) => {
    const domain = domainToAscii(name.replace(/^@/, ''))
    if (!domain || !isMailDomain(domain)) throw invalid(`“${name}” is not a domain.`, { [`${field}.${i}`]: `“${name}” is not a domain.` })
    out.add(domain)
  })
  return [...out]
}

async function departmentsOf(tx: Tx, asked: Settings['departments']): Promise<{ id: string, name: string, parent: string | null }[]> {
  const there = new Map((await tx.select().from(departments)).map(d => [d.id, d.name]))
  const taken = new Set(there.keys())
  const out = asked.map(({ id, name, parent }) => {
    if (id !== undefined && !there.has(id)) throw invalid(`Department “${id}” no longer exists.`, { departments: 'Reload.' })
    return { id: id ?? freshId(name, taken), name, parent: parent ?? null }
  })
  const known = new Map(out.map(d => [d.id, d]))
  for (const one of out) {
    const above = new Set([one.id])
    for (let at = one.parent; at !== null; at = known.get(at)!.parent) {
      if (!known.has(at))
        throw invalid(`The parent department of “${one.name}” does not exist.`, { departments: 'Choose an existing department.' })
      if (above.has(at))
        throw invalid(`Department “${one.name}” cannot be part of itself.`, { departments: 'Choose another parent department.' })
      above.add(at)
    }
  }
  for (const [id, name] of there) if (!known.has(id)) await mustBeEmpty(tx, id, name)
  return out.sort((a, b) => (a.id < b.id ? -1 : 1))
}

function freshId(name: string, taken: Set<string>): string {
  const base = name.toLowerCase().normalize('NFKD').replace(/[^a-z0-9]+/g, '-').replace(/^-|-$/g, '').slice(0, 50) || 'department'
  let id = base
  for (let n = 2; taken.has(id); n++) id = `${base}-${n}`
  taken.add(id)
  return id
}

// What is a department's would be nobody's.
async function mustBeEmpty(tx: Tx, id: string, name: string): Promise<void> {
  const owner = `department:${id}`
  const [people] = await tx.select({ n: sql<number>`count(*)::int` }).from(memberships).where(eq(memberships.departmentId, id))
  let kept = 0
  for (const table of [lists, rules, phraseSets]) {
    const [own] = await tx
      .select({ n: sql<number>`count(*)::int` })
      .from(table)
      .where(and(eq(table.owner, owner), isNull(table.toVersion)))
    kept += own!.n
  }
  if (people!.n || kept)
    throw invalid(
      `Department “${name}” still has ${counted(people!.n, 'user')} `
      + `and ${counted(kept, 'list, rule or phrase set', 'lists, rules and phrase sets')}. Move or delete them first.`,
      { departments: `Department “${name}” is still in use.` },
    )
}

// A rule that asks for a mark which is gone would never match again.
async function mustNotBeAsked(upstreamVerdicts: readonly UpstreamVerdict[]): Promise<void> {
  const { policy } = await activePolicy()
  for (const rule of policy.rules) {
    const gone = rulesReferences(rule).find(r => r.to === 'upstreamVerdict' && !upstreamVerdicts.some(m => m.id === r.id))
    if (gone)
      throw invalid(
        `Rule “${rule.name}” uses the upstream filter header `
        + `“${policy.trust.upstreamVerdicts?.find(m => m.id === gone.id)?.name ?? gone.id}”. Change the rule first.`,
        { upstreamVerdicts: 'An upstream filter header is still used by a rule.' },
      )
  }
}

async function put(tx: Tx, key: string, value: unknown): Promise<void> {
  await tx.insert(settings).values({ key, value }).onConflictDoUpdate({ target: settings.key, set: { value } })
}

async function write(tx: Tx, part: SettingsPart, after: Partial<Settings>, before: Settings): Promise<void> {
  if (part === 'domains') {
    await tx.delete(domains)
    if (after.domains!.length) await tx.insert(domains).values(after.domains!.map(domain => ({ domain })))
  }
  else if (part === 'departments') {
    const stay = new Set(after.departments!.map(d => d.id))
    for (const { id } of before.departments) if (!stay.has(id)) await tx.delete(departments).where(eq(departments.id, id!))
    for (const { id, name, parent } of after.departments!) {
      const row = { id: id!, name, parentId: parent ?? null }
      await tx.insert(departments).values(row).onConflictDoUpdate({ target: departments.id, set: row })
    }
  }
  else if (part === 'relays') {
    await tx.delete(trust).where(eq(trust.kind, 'relay'))
    for (const relay of after.relays!) await tx.insert(trust).values({ kind: 'relay', ...relay })
  }
  else if (part === 'ownNetworks') {
    await tx.delete(trust).where(eq(trust.kind, 'ownNetwork'))
    for (const network of after.ownNetworks!) await tx.insert(trust).values({ kind: 'ownNetwork', network })
  }
  else {
    await put(tx, KEPT[part]!.key, after[part])
  }
}
