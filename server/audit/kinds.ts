import { LANE_NAMES } from '#core/words'
import { personIn, personOwner, type Owner, type Lane } from '#core'
import { canChange } from '../access/ownership'
import { can, type Actor } from '../access/roles'
import { db } from '../db/client'
import type { auditEvents } from '../db/schema'
import type { MovedCopies } from '../copies/locked-copies'
import { endJobsOf } from '../jobs/store'
import { canAnswer, reopenOf, undoProposalEvent } from '../requests/proposals'
import { canAnswerAgain, undoDecline, withdrawRequests } from '../requests/requests'
import { bringBack, notRestorable, undoMoves } from '../copies/undo-moves'
import { settingsEventWords, undoSettings } from '../users/settings'
import { undoMembers } from '../users/member-changes'
import { undoQuarantineEvent } from '../policy/quarantine-settings'
import { undoVersion } from '../policy/undo-version'

export type AuditEvent = typeof auditEvents.$inferSelect

/** What taking an act back came to. */
export type UndoResult = MovedCopies & {
  /** The version in force, where clauses were changed back. */
  version?: number
}

/** A kind of act on record. What does it is where it is done; here it is told, and taken back. */
interface EventKind {
  /** In a sentence. */
  words(auditEvent: AuditEvent): string
  /** Takes it back, as an act of its own; null where that cannot be done. */
  undo: ((actor: Actor, auditEvent: AuditEvent) => Promise<UndoResult>) | null
  /**
   * Whether somebody may do today what undoing it amounts to. Without, it is asked of each of its messages (`notRestorable`).
   */
  canUndo?: (actor: Actor, auditEvent: AuditEvent) => boolean | Promise<boolean>
}

const isOwn = (actor: Actor, { personId }: AuditEvent) => personId === actor.id
const canChangeSettings = (actor: Actor) => can(actor, 'change settings')

/** Every kind of act that is on record. */
export const EVENT_KINDS: Record<string, EventKind> = {
  'moved': { words: ({ detail }) => `sent ${messages(detail)} to ${laneIn(detail)}`, undo: undoMoves },
  'released': { words: ({ detail }) => `released ${messages(detail)} to ${laneIn(detail)}`, undo: undoMoves },
  'binned': {
    words: ({ detail }) => `rejected ${messages(detail)}${detail.reason ? `: ${String(detail.reason)}` : ''}`,
    undo: undoMoves,
  },
  'requestedRelease': {
    words: ({ detail }) => `asked for ${messages(detail)} that ${detail.count === 1 ? 'is' : 'are'} held`,
    undo: async (actor, auditEvent) => ({ eventId: await withdrawRequests(actor, auditEvent), changed: 0, copies: [] }),
    canUndo: isOwn,
  },
  'declinedRequest': {
    words: ({ detail }) => `declined a request: ${String(detail.reason)}`,
    undo: async (actor, auditEvent) => ({ eventId: await undoDecline(actor, auditEvent), changed: 0, copies: [] }),
    canUndo: (actor, auditEvent) => canAnswerAgain(actor, Number(auditEvent.detail.request)),
  },
  'marked': {
    words: ({ detail }) =>
      typeof detail.value === 'string' ? `marked ${messages(detail)} as ${detail.value}` : `removed the mark of ${messages(detail)}`,
    undo: undoMoves,
  },
  'changed': {
    words: ({ detail }) =>
      `${String(detail.words ?? 'changed the lists and rules')}${detail.count ? `; moved ${messages(detail)} that were here` : ''}`,
    async undo(actor, auditEvent) {
      let changed = 0
      const { eventId, version } = await undoVersion(actor, versionIn(auditEvent)!, {
        undoes: auditEvent.id,
        words: String(auditEvent.detail.words ?? ''),
        first: tx => endJobsOf(tx, auditEvent.id),
        async inTransaction(tx, undo) {
          changed = await bringBack(tx, actor, auditEvent.id, undo)
          await reopenOf(tx, auditEvent.id)
        },
      })
      return { eventId, changed, copies: [], version }
    },
    canUndo: (actor, { detail }) =>
      canChange(actor, (detail.owner ?? 'organisation') as Owner)
      && (!detail.administrators || can(actor, 'change all clauses')),
  },
  'applied': { words: ({ detail }) => `applied to ${messages(detail)} here: ${String(detail.words)}`, undo: undoMoves },
  'proposed': { words: ({ detail }) => `proposed: ${String(detail.words)}`, undo: undoProposal, canUndo: isOwn },
  'declined': {
    words: ({ detail }) => `declined the proposal: ${String(detail.words)}`,
    undo: undoProposal,
    canUndo: actor => canAnswer(actor),
  },
  'undone': { words: ({ detail }) => String(detail.words ?? `took back what was ${String(detail.kind)}`), undo: null },
  'changedSettings': {
    words: ({ detail }) => settingsEventWords(detail),
    async undo(actor, auditEvent) {
      const { eventId } = await undoSettings(actor, auditEvent)
      return { eventId, changed: 0, copies: [] }
    },
    canUndo: canChangeSettings,
  },
  'changedUsers': {
    words: ({ detail }) => String(detail.words),
    undo: async (actor, auditEvent) => ({ eventId: await undoMembers(actor, auditEvent), changed: 0, copies: [] }),
    canUndo: canChangeSettings,
  },
  'importedUsers': { words: ({ detail }) => String(detail.words), undo: null },
  'purged': {
    words: ({ detail }) => `cleared ${messages(detail)} out of ${laneIn({ lane: detail.lane ?? 'bin' })}, for good`,
    undo: null,
  },
  'changedQuarantine': { words: ({ detail }) => String(detail.words), undo: undoQuarantine, canUndo: canChangeSettings },
  'opened': { words: () => 'opened somebody else’s message', undo: null },
  'setUp': { words: () => 'set up this installation', undo: null },
}

async function undoQuarantine(actor: Actor, auditEvent: AuditEvent): Promise<UndoResult> {
  return { eventId: await undoQuarantineEvent(actor, auditEvent), changed: 0, copies: [] }
}

async function undoProposal(actor: Actor, auditEvent: AuditEvent): Promise<UndoResult> {
  return { eventId: await undoProposalEvent(actor, auditEvent), changed: 0, copies: [] }
}

/** Of these acts those that the asker may undo, by the rights that they have today. */
export async function undoableBy(actor: Actor, auditEvents: readonly AuditEvent[]): Promise<Set<number>> {
  const out = new Set<number>()
  const moving = auditEvents.filter(a => EVENT_KINDS[a.kind]?.undo && !EVENT_KINDS[a.kind]!.canUndo)
  const barred = await notRestorable(db(), actor, moving)
  for (const auditEvent of moving) if (!barred.has(auditEvent.id)) out.add(auditEvent.id)
  for (const auditEvent of auditEvents) {
    const { undo, canUndo } = EVENT_KINDS[auditEvent.kind] ?? {}
    if (undo && canUndo && (await canUndo(actor, auditEvent))) out.add(auditEvent.id)
  }
  return out
}

/** The version of the policy that an act made; null where it made none. */
export function versionIn({ detail }: Pick<AuditEvent, 'detail'>): number | null {
  return typeof detail.version === 'number' ? detail.version : null
}

/** The words of an act for somebody: of what a colleague changed in clauses of their own only that it was so. */
export function eventWords(actor: Actor, auditEvent: AuditEvent): string {
  const owner = auditEvent.detail.owner as Owner | undefined
  if (owner !== undefined && personIn(owner) !== null && owner !== personOwner(actor.id)) return 'changed clauses of their own'
  return EVENT_KINDS[auditEvent.kind]?.words(auditEvent) ?? auditEvent.kind
}

function messages({ count }: Record<string, unknown>): string {
  return count === 1 ? 'one message' : `${String(count)} messages`
}

function laneIn({ lane }: Record<string, unknown>): string {
  return lane === 'inbox' ? 'the inbox' : LANE_NAMES[lane as Lane]
}
