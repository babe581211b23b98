import type { Owner } from '#core'
import { canChange } from '../access/ownership'
import { can, type Actor } from '../access/roles'
import { db } from '../db/client'
import type { auditEvents } from '../db/schema'
import type { MovedCopies } from '../copies/locked-copies'
import { endJobsOf } from '../jobs/store'
import { canAnswer, reopenOf, undoProposalEvent } from '../requests/proposals'
import { canAnswerAgain, undoDecline, withdrawRequests } from '../requests/requests'
import { bringBack, notRestorable, undoMoves } from '../copies/undo-moves'
import { mustHaveSeenDeleted } from '../retention/shortened'
import { undoSettings } from '../users/settings'
import { isUndoableDeactivation, undoDeactivation } from '../users/deactivation'
import { undoMembers } from '../users/member-changes'
import { undoQuarantineEvent } from '../policy/quarantine-settings'
import { undoVersion } from '../policy/undo-version'

export type AuditEvent = typeof auditEvents.$inferSelect

/** What undoing an event came to. */
export type UndoResult = MovedCopies & {
  /** The version active, where clauses were changed back. */
  version?: number
}

/** What kinds are found by. */
export const EVENT_GROUPS = ['messages', 'policy', 'requests', 'users', 'settings', 'undone'] as const
export type EventGroup = (typeof EVENT_GROUPS)[number]

/** A kind of event. What makes it is where that is done; here is how it is undone, in words.ts what it says. */
interface EventKind {
  /** Where it is found among all kinds. */
  group: EventGroup
  /** Undoes it, as an event of its own; null where that cannot be done. */
  undo: ((actor: Actor, event: AuditEvent) => Promise<UndoResult>) | null
  /** Whether somebody can do today what undoing it amounts to. Without, it is asked of each of its messages (`notRestorable`). */
  canUndo?: (actor: Actor, event: AuditEvent) => boolean | Promise<boolean>
}

const isOwn = (actor: Actor, { personId }: AuditEvent) => personId === actor.id
const canChangeSettings = (actor: Actor) => can(actor, 'change settings')
const undoneAs = (eventId: number | null): UndoResult => ({ eventId, changed: 0, copies: [] })

/** Every kind of event in the audit log. */
export const EVENT_KINDS = {
  moved: { group: 'messages', undo: undoMoves },
  released: { group: 'messages', undo: undoMoves },
  binned: { group: 'messages', undo: undoMoves },
  requestedRelease: { group: 'requests', undo: async (actor, event) => undoneAs(await withdrawRequests(actor, event)), canUndo: isOwn },
  declinedRequest: {
    group: 'requests',
    undo: async (actor, event) => undoneAs(await undoDecline(actor, event)),
    canUndo: (actor, event) => canAnswerAgain(actor, Number(event.detail.request)),
  },
  marked: { group: 'messages', undo: undoMoves },
  changed: {
    group: 'policy',
    async undo(actor, event) {
      let changed = 0
      const { eventId, version } = await undoVersion(actor, Number(event.detail.version), {
        undoes: event.id,
        first: tx => endJobsOf(tx, event.id),
        async inTransaction(tx, undo) {
          changed = await bringBack(tx, actor, event.id, undo)
          await reopenOf(tx, event.id)
        },
      })
      return { eventId, changed, copies: [], version }
    },
    canUndo: (actor, { detail }) =>
      canChange(actor, (detail.owner ?? 'organisation') as Owner)
      && (!detail.administrators || can(actor, 'change all lists and rules')),
  },
  applied: { group: 'policy', undo: undoMoves },
  proposed: { group: 'requests', undo: async (actor, event) => undoneAs(await undoProposalEvent(actor, event)), canUndo: isOwn },
  declined: { group: 'requests', undo: async (actor, event) => undoneAs(await undoProposalEvent(actor, event)), canUndo: actor => canAnswer(actor) },
  undone: { group: 'undone', undo: null },
  changedSettings: {
    group: 'settings',
    undo: async (actor, event) => undoneAs((await undoSettings(actor, event, mustHaveSeenDeleted)).eventId),
    canUndo: canChangeSettings,
  },
  changedUsers: {
    group: 'users',
    undo: async (actor, event) => undoneAs(await undoMembers(actor, event)),
    // Those of an older version of the product do not say how the users were before.
    canUndo: (actor, event) => canChangeSettings(actor) && (event.detail.members as unknown[]).length > 0,
  },
  invitedUser: { group: 'users', undo: null },
  chosePassword: { group: 'users', undo: null },
  deactivatedUser: {
    group: 'users',
    undo: async (actor, event) => undoneAs(await undoDeactivation(actor, event)),
    canUndo: (actor, event) => canChangeSettings(actor) && isUndoableDeactivation(event),
  },
  purged: { group: 'messages', undo: null },
  changedQuarantine: { group: 'settings', undo: async (actor, event) => undoneAs(await undoQuarantineEvent(actor, event)), canUndo: canChangeSettings },
  opened: { group: 'messages', undo: null },
  setUp: { group: 'settings', undo: null },
} as const satisfies Record<string, EventKind>

/** The kind of an event; undefined for one that this version of the product does not have. */
export function eventKind(name: string): EventKind | undefined {
  return Object.hasOwn(EVENT_KINDS, name) ? EVENT_KINDS[name as keyof typeof EVENT_KINDS] : undefined
}

/** Of these events those that somebody can undo, by the rights that they have today. */
export async function undoableBy(actor: Actor, events: readonly AuditEvent[]): Promise<Set<number>> {
  const out = new Set<number>()
  const moving = events.filter(e => eventKind(e.kind)?.undo && !eventKind(e.kind)!.canUndo)
  const barred = await notRestorable(db(), actor, moving)
  for (const event of moving) if (!barred.has(event.id)) out.add(event.id)
  for (const event of events) {
    const { undo, canUndo } = eventKind(event.kind) ?? {}
    if (undo && canUndo && (await canUndo(actor, event))) out.add(event.id)
  }
  return out
}
