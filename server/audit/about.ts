import { capitalised, counted, quoted } from '#core/wording'
import { can, type Actor } from '../access/roles'
import { membersWords, type MemberChange } from '../users/member-changes'
import { SETTINGS_PART_NAMES } from '../users/settings'
import type { Settings, SettingsPart } from '../users/settings-form'
import { clauseTargets, type ClauseRef } from './about-clauses'
import { copyTargets } from './about-copies'
import type { AuditEvent } from './kinds'
import { NO_TARGETS, type EventTarget, type EventTargets } from './targets'
import { versionOf, type EventContext } from './words'

/**
 * What events were about, by event, as far as somebody sees it. Of one that undoes another it is what that was about.
 * @param only of the policy this clause alone
 */
export async function eventTargets(
  actor: Actor,
  events: readonly AuditEvent[],
  context: EventContext,
  only: ClauseRef | null,
): Promise<Map<number, EventTargets>> {
  const originals = events.flatMap(e => (e.undoes === null ? [] : (context.undone.get(e.undoes) ?? [])))
  const all = [...events, ...originals]
  const copies = only ? new Map<number, EventTargets>() : await copyTargets(actor, all)
  const clauses = await clauseTargets(actor, [...new Set(all.flatMap(e => versionOf(e.detail) ?? []))], only)
  const own = (event: AuditEvent): EventTargets => {
    const found = [clauses.get(versionOf(event.detail) ?? -1), copies.get(event.id), only ? undefined : named(actor, event, context)]
    return {
      targets: found.flatMap(f => f?.targets ?? []),
      more: found.reduce((n, f) => n + (f?.more ?? 0), 0),
    }
  }
  return new Map(events.map((event) => {
    const about = own(event)
    const original = event.undoes === null ? undefined : context.undone.get(event.undoes)
    return [event.id, about.targets.length || !original ? about : own(original)]
  }))
}

/** Where each part of Settings is shown. */
const PART_PAGES: Record<SettingsPart, string> = {
  domains: 'domains',
  departments: 'departments',
  relays: 'trust',
  ownNetworks: 'trust',
  upstreamVerdicts: 'trust',
  publicProviders: 'trust',
  timeZone: 'time-and-address',
  publicAddress: 'time-and-address',
  retention: 'retention',
  verification: 'verification',
}

/** The values of a part of Settings before and after, where they are short enough to be read at a glance. */
function values(part: SettingsPart, { before, after }: { before?: Partial<Settings>, after?: Partial<Settings> }) {
  const words = (value: unknown): string | null => {
    if (typeof value === 'string') return value || 'none'
    if (part === 'verification' && value) return verificationWords(value as Settings['verification'])
    if (part === 'retention' && value) return retentionWords(value as Settings['retention'])
    if (!Array.isArray(value) || !value.every(v => typeof v === 'string')) return null
    return value.slice(0, 20).join(', ') || 'none'
  }
  const [was, is] = [words(before?.[part]), words(after?.[part])]
  return was === null || is === null ? {} : { before: was, after: is }
}

function retentionWords({ bin, spam, attempts }: Settings['retention']): string {
  const kept = (days: number | null) => (days === null ? 'kept' : counted(days, 'day'))
  return `Bin: ${kept(bin)}; Spam: ${kept(spam)}; message log: ${kept(attempts)}`
}

/** What an event names by itself: users, settings, quarantines, proposals. */
function named(actor: Actor, { kind, detail }: AuditEvent, { proposals }: EventContext): EventTargets {
  const settings = (name: string, page: string): EventTarget => ({ name, to: can(actor, 'change settings') ? `/settings/${page}` : null })
  const user = (name: unknown): EventTarget => settings(`User ${quoted(String(name))}`, `users?find=${encodeURIComponent(String(name))}`)
  const of = (...targets: EventTarget[]): EventTargets => ({ targets, more: 0 })
  switch (kind) {
    case 'changedUsers': {
      // An event of an older version of the product has the name alone.
      if (detail.name !== undefined) return of(user(detail.name))
      const members = detail.members as MemberChange[]
      if (members.length !== 1) return of(settings(membersWords(detail), 'users'))
      return of(user(members[0]!.after.name))
    }
    case 'invitedUser':
      return of(user(detail.name))
    case 'deactivatedUser':
      return of(user(detail.name), ...(detail.successor ? [user(detail.successor)] : []))
    case 'changedSettings':
      return of(...(detail.parts as SettingsPart[]).map(part => ({
        ...settings(capitalised(SETTINGS_PART_NAMES[part]), PART_PAGES[part]),
        ...values(part, detail as { before: Partial<Settings>, after: Partial<Settings> }),
      })))
    case 'changedQuarantine':
      return of(settings(`Quarantine ${quoted(String(detail.name))}`, 'quarantines'))
    case 'proposed':
    case 'declined': {
      const id = Number(detail.proposal)
      return proposals.has(id) ? of({ name: 'Proposal', to: `/proposals#proposal-${id}` }) : NO_TARGETS
    }
    default:
      return NO_TARGETS
  }
}

function verificationWords({ enabled, servers }: Settings['verification']): string {
  if (!enabled) return 'off'
  return servers.length ? `on, DNS servers ${servers.join(', ')}` : 'on, DNS servers of the system'
}
