import { personIn, personOwner, type Owner } from '#core'
import { mayChange } from '../access/ownership'
import { may, type Asker } from '../access/roles'
import { db } from '../db/client'
import type { acts } from '../db/schema'
import type { Moved } from '../copies/locked-copies'
import { endJobsOf } from '../jobs/store'
import { mayAnswer, reopenOf, takeBackProposal } from '../requests/proposals'
import { mayAnswerAgain, takeBackRefusal, withdrawRequests } from '../requests/requests'
import { bringBack, notRestorable, takeBackMoves } from '../copies/undo-moves'
import { houseActWords, takeBackHouse } from '../users/settings'
import { undoMembers } from '../users/member-changes'
import { takeBackQuarantine } from '../policy/quarantine-settings'
import { takeBackVersion } from '../policy/undo-version'

export type Act = typeof acts.$inferSelect

/** What taking an act back came to. */
export type TakenBack = Moved & {
  /** The version in force, where clauses were changed back. */
  version?: number
}

/** A kind of act on record. What does it is where it is done; here it is told, and taken back. */
interface ActKind {
  /** In a sentence. */
  words(act: Act): string
  /** Takes it back, as an act of its own; null where that cannot be done. */
  undo: ((asker: Asker, act: Act) => Promise<TakenBack>) | null
  /**
   * Whether somebody may do today what undoing it amounts to. Without, it is asked of each of its messages (`notRestorable`).
   */
  mayUndo?: (asker: Asker, act: Act) => boolean | Promise<boolean>
}

const isOwn = (asker: Asker, { personId }: Act) => personId === asker.id
const maySetUp = (asker: Asker) => may(asker, 'set up the house')

/** Every kind of act that is on record. */
export const ACT_KINDS: Record<string, ActKind> = {
  'moved': { words: ({ detail }) => `sent ${messages(detail)} to ${laneIn(detail)}`, undo: takeBackMoves },
  'released': { words: ({ detail }) => `released ${messages(detail)} to ${laneIn(detail)}`, undo: takeBackMoves },
  'rejected': {
    words: ({ detail }) => `rejected ${messages(detail)}${detail.reason ? `: ${String(detail.reason)}` : ''}`,
    undo: takeBackMoves,
  },
  'asked': {
    words: ({ detail }) => `asked for ${messages(detail)} that ${detail.count === 1 ? 'is' : 'are'} held`,
    undo: async (asker, act) => ({ actId: await withdrawRequests(asker, act), changed: 0, copies: [] }),
    mayUndo: isOwn,
  },
  'refused': {
    words: ({ detail }) => `declined a request: ${String(detail.reason)}`,
    undo: async (asker, act) => ({ actId: await takeBackRefusal(asker, act), changed: 0, copies: [] }),
    mayUndo: (asker, act) => mayAnswerAgain(asker, Number(act.detail.request)),
  },
  'judged': {
    words: ({ detail }) =>
      typeof detail.value === 'string' ? `judged ${messages(detail)} ${detail.value}` : `took back what was said of ${messages(detail)}`,
    undo: takeBackMoves,
  },
  'changed': {
    words: ({ detail }) =>
      `${String(detail.words ?? 'changed the lists and rules')}${detail.count ? `; moved ${messages(detail)} that were here` : ''}`,
    async undo(asker, act) {
      let changed = 0
      const { act: actId, version } = await takeBackVersion(asker, versionIn(act)!, {
        undoes: act.id,
        words: String(act.detail.words ?? ''),
        first: tx => endJobsOf(tx, act.id),
        async besides(tx, undo) {
          changed = await bringBack(tx, asker, act.id, undo)
          await reopenOf(tx, act.id)
        },
      })
      return { actId, changed, copies: [], version }
    },
    mayUndo: (asker, { detail }) =>
      mayChange(asker, (detail.owner ?? 'organisation') as Owner)
      && (!detail.administrators || may(asker, 'change everybody’s clauses')),
  },
  'applied': { words: ({ detail }) => `applied to ${messages(detail)} here: ${String(detail.words)}`, undo: takeBackMoves },
  'proposed': { words: ({ detail }) => `proposed: ${String(detail.words)}`, undo: undoProposal, mayUndo: isOwn },
  'declined': {
    words: ({ detail }) => `declined the proposal: ${String(detail.words)}`,
    undo: undoProposal,
    mayUndo: asker => mayAnswer(asker),
  },
  'taken back': { words: ({ detail }) => String(detail.words ?? `took back what was ${String(detail.kind)}`), undo: null },
  'set the house': {
    words: ({ detail }) => houseActWords(detail),
    async undo(asker, act) {
      const { act: actId } = await takeBackHouse(asker, act)
      return { actId, changed: 0, copies: [] }
    },
    mayUndo: maySetUp,
  },
  'changed users': {
    words: ({ detail }) => String(detail.words),
    undo: async (asker, act) => ({ actId: await undoMembers(asker, act), changed: 0, copies: [] }),
    mayUndo: maySetUp,
  },
  'set people': { words: ({ detail }) => String(detail.words), undo: null },
  'cleared': {
    words: ({ detail }) => `cleared ${messages(detail)} out of ${laneIn({ lane: detail.lane ?? 'the bin' })}, for good`,
    undo: null,
  },
  'set a quarantine': { words: ({ detail }) => String(detail.words), undo: undoQuarantine, mayUndo: maySetUp },
  'opened': { words: () => 'opened somebody else’s message', undo: null },
  'set up': { words: () => 'set up this installation', undo: null },
}

async function undoQuarantine(asker: Asker, act: Act): Promise<TakenBack> {
  return { actId: await takeBackQuarantine(asker, act), changed: 0, copies: [] }
}

async function undoProposal(asker: Asker, act: Act): Promise<TakenBack> {
  return { actId: await takeBackProposal(asker, act), changed: 0, copies: [] }
}

/** Of these acts those that the asker may undo, by the rights that they have today. */
export async function undoableBy(asker: Asker, acts: readonly Act[]): Promise<Set<number>> {
  const out = new Set<number>()
  const moving = acts.filter(a => ACT_KINDS[a.kind]?.undo && !ACT_KINDS[a.kind]!.mayUndo)
  const barred = await notRestorable(db(), asker, moving)
  for (const act of moving) if (!barred.has(act.id)) out.add(act.id)
  for (const act of acts) {
    const { undo, mayUndo } = ACT_KINDS[act.kind] ?? {}
    if (undo && mayUndo && (await mayUndo(asker, act))) out.add(act.id)
  }
  return out
}

/** The version of the policy that an act made; null where it made none. */
export function versionIn({ detail }: Pick<Act, 'detail'>): number | null {
  return typeof detail.version === 'number' ? detail.version : null
}

/** The words of an act for somebody: of what a colleague changed in clauses of their own only that it was so. */
export function actWords(asker: Asker, act: Act): string {
  const owner = act.detail.owner as Owner | undefined
  if (owner !== undefined && personIn(owner) !== null && owner !== personOwner(asker.id)) return 'changed clauses of their own'
  return ACT_KINDS[act.kind]?.words(act) ?? act.kind
}

function messages({ count }: Record<string, unknown>): string {
  return count === 1 ? 'one message' : `${String(count)} messages`
}

function laneIn({ lane }: Record<string, unknown>): string {
  return lane === 'inbox' ? 'the inbox' : String(lane)
}
