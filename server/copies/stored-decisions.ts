import { eq } from 'drizzle-orm'
import type { Tx } from '../db/client'
import { copies, decisionClaims, decisions } from '../db/schema'
import type { claimsOf, decisionRow } from './decision-rows'

/** Keeps a decision with its claims as the copy's newest. */
export async function storeDecision(
  tx: Tx,
  copyId: number,
  decision: ReturnType<typeof decisionRow>,
  claims: ReturnType<typeof claimsOf>,
): Promise<number> {
  const before = await tx.select({ id: decisions.id }).from(decisions).where(eq(decisions.copyId, copyId))
  const [row] = await tx
    .insert(decisions)
    .values({ ...decision, at: new Date(decision.at), copyId, sequence: before.length + 1 })
    .returning({ id: decisions.id })
  if (claims.length) await tx.insert(decisionClaims).values(claims.map(c => ({ ...c, decisionId: row!.id, copyId })))
  await tx.update(copies).set({ decisionId: row!.id }).where(eq(copies.id, copyId))
  return row!.id
}
