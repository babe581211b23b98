import { eq } from 'drizzle-orm'
import type { Content, DoorRuling } from '#core'
import { shortReason } from '#core/words'
import type { Tx } from '../db/client'
import { copies, rulingClaims, rulings } from '../db/schema'
import { cleanJson, cleanText, indexKey } from './clean-text'

/** What of a copy follows from its ruling. */
export function stateByRuling(ruling: DoorRuling, content: Pick<Content, 'subject' | 'important'>) {
  const mark = ruling.effects.find(e => e.kind === 'subject mark')?.value
  const subject = ruling.stop?.to === 'drop' && ruling.lane === 'dropped' ? '' : content.subject
  return {
    lane: ruling.lane, quarantineId: ruling.quarantine, folder: ruling.place?.to === 'filed' ? 'filed' : ruling.place?.folder ?? null,
    tags: [...ruling.effects.filter(e => e.kind === 'tag').map(e => cleanText(e.value ?? '')), ...(ruling.decidedLane === 'refused' && ruling.lane !== 'refused' ? ['not refused: others took it'] : [])],
    important: ruling.effects.some(e => e.kind === 'important') || content.important,
    subject: indexKey(mark ? `${mark} ${subject}` : subject), decided: cleanText(shortReason(ruling)).slice(0, 300),
  }
}

/** Keeps a ruling with its claims as the copy's newest. */
export async function keepRuling(tx: Tx, copyId: number, ruling: DoorRuling, at: Date): Promise<number> {
  const before = await tx.select({ id: rulings.id }).from(rulings).where(eq(rulings.copyId, copyId))
  const [row] = await tx.insert(rulings).values({
    copyId, sequence: before.length + 1, policyVersion: ruling.policyVersion, decidedLane: ruling.decidedLane, finalLane: ruling.lane, quarantineId: ruling.quarantine,
    effects: cleanJson(ruling.effects), reasons: cleanJson(ruling.reasons), decidedBy: ruling.decidedBy, at,
  }).returning({ id: rulings.id })
  if (ruling.reasons.length) {
    await tx.insert(rulingClaims).values(ruling.reasons.map(r => ({
      rulingId: row!.id, copyId, clauseKind: r.clause.kind, clauseId: r.clause.id, listId: r.clause.list ?? null, entryId: r.clause.entry?.id ?? null, fate: r.fate.kind,
    })))
  }
  await tx.update(copies).set({ rulingId: row!.id }).where(eq(copies.id, copyId))
  return row!.id
}
