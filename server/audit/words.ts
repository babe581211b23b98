import { inArray } from 'drizzle-orm'
import { personIn, personOwner, type Lane, type Owner } from '#core'
import { LANE_NAMES } from '#core/words'
import { counted, quoted } from '#core/wording'
import type { Actor } from '../access/roles'
import { db } from '../db/client'
import { auditEvents, proposals, versions, type ChangeNote } from '../db/schema'
import { noteWords } from '../policy/change-note'
import { membersWords } from '../users/member-changes'
import { settingsWords } from '../users/settings'
import type { EVENT_KINDS, AuditEvent } from './kinds'

type Detail = AuditEvent['detail']

/** What the words of events need besides the events. */
export interface EventContext {
  /** By the number of the version that an event made. */
  versions: ReadonlyMap<number, { note: ChangeNote | null, words: string }>
  /** Words by the id of the proposal. */
  proposals: ReadonlyMap<number, string>
  /** The events that others undo, by their ids. */
  undone: ReadonlyMap<number, AuditEvent>
}

/** Reads what these events need to be put into words. */
export async function eventContext(events: readonly AuditEvent[]): Promise<EventContext> {
  const ids = events.flatMap(e => e.undoes ?? [])
  const undone = ids.length ? await db().select().from(auditEvents).where(inArray(auditEvents.id, ids)) : []
  const all = [...events, ...undone]
  const numbers = all.flatMap(e => versionOf(e.detail) ?? [])
  const proposalIds = all.flatMap(e => numberIn(e.detail, 'proposal') ?? [])
  const [versionRows, proposalRows] = [
    numbers.length ? await db().select().from(versions).where(inArray(versions.number, numbers)) : [],
    proposalIds.length
      ? await db().select({ id: proposals.id, words: proposals.words }).from(proposals).where(inArray(proposals.id, proposalIds))
      : [],
  ]
  return {
    versions: new Map(versionRows.map(v => [v.number, v])),
    proposals: new Map(proposalRows.map(p => [p.id, p.words])),
    undone: new Map(undone.map(e => [e.id, e])),
  }
}

/** The words of an event for somebody. Of what a colleague changed in clauses of their own they say only that it was so. */
export function eventWords(actor: Actor, event: AuditEvent, context: EventContext): string {
  const { detail } = event
  const owner = detail.owner as Owner | undefined
  if (owner !== undefined && personIn(owner) !== null && owner !== personOwner(actor.id)) return 'changed personal lists or rules'
  if (event.undoes !== null) {
    const original = context.undone.get(event.undoes)
    return original ? `undid: ${eventWords(actor, original, context)}` : 'undid an event that is no longer kept'
  }
  return WORDS[event.kind as keyof typeof WORDS]?.(detail, context) ?? event.kind
}

/** Of every kind what it says. */
const WORDS: Record<keyof typeof EVENT_KINDS, (detail: Detail, context: EventContext) => string> = {
  moved: detail => `moved ${messages(detail)} to ${laneIn(detail)}`,
  released: detail => `released ${messages(detail)} to ${laneIn(detail)}${waited(detail)}`,
  binned: detail =>
    `moved ${messages(detail)} to ${LANE_NAMES.bin} as unwanted${detail.reason ? `: ${String(detail.reason)}` : ''}${waited(detail)}`,
  requestedRelease: detail => `requested release of ${messages(detail)}`,
  declinedRequest: detail => `declined a release request: ${String(detail.reason)}`,
  marked: detail =>
    typeof detail.value === 'string' ? `marked ${messages(detail)} as ${detail.value}` : `removed the mark of ${messages(detail)}`,
  changed: (detail, context) => `${changeWords(detail, context)}${detail.count ? `; moved ${existing(detail)}` : ''}`,
  applied: detail => `applied once to ${existing(detail)}: ${detail.note ? noteWords(detail.note as ChangeNote) : String(detail.words)}`,
  proposed: (detail, context) => `proposed: ${proposalWords(detail, context)}`,
  declined: (detail, context) => `declined the proposal: ${proposalWords(detail, context)}`,
  undone: () => 'undid an event that is no longer kept',
  changedSettings: detail => settingsWords(detail),
  changedUsers: detail => membersWords(detail),
  invitedUser: detail => `created a sign-in link for ${quoted(String(detail.name))}`,
  chosePassword: () => 'changed the password',
  deactivatedUser: detail =>
    `deactivated user ${quoted(String(detail.name))}${detail.successor ? `; successor: ${quoted(String(detail.successor))}` : ''}`,
  purged: detail => `deleted ${messages(detail)} permanently from ${laneIn(detail)}`,
  changedQuarantine: detail => `changed the settings of quarantine ${quoted(String(detail.name))}`,
  opened: () => 'opened another user’s message',
  setUp: () => 'set up this installation',
}

/** The version of the policy that an event made; null where it made none. */
export function versionOf(detail: Detail): number | null {
  return numberIn(detail, 'version')
}

function numberIn(detail: Detail, key: string): number | null {
  const value = detail[key]
  return typeof value === 'number' ? value : null
}

function changeWords(detail: Detail, { versions }: EventContext): string {
  const version = versions.get(versionOf(detail) ?? -1)
  if (!version) return 'changed the lists and rules'
  return version.note ? noteWords(version.note) : version.words
}

function proposalWords(detail: Detail, { proposals }: EventContext): string {
  return proposals.get(numberIn(detail, 'proposal') ?? -1) ?? 'a change that is no longer kept'
}

function messages({ count }: Detail): string {
  return counted(Number(count), 'message')
}

function existing({ count }: Detail): string {
  return counted(Number(count), 'existing message')
}

function laneIn({ lane }: Detail): string {
  return LANE_NAMES[lane as Lane]
}

function waited({ waitedDays }: Detail): string {
  return typeof waitedDays === 'number' ? `: no decision within ${counted(waitedDays, 'day')}` : ''
}
