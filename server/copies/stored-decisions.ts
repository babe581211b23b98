import { eq } from 'drizzle-orm'
import type { Tx } from '../db/client'
import { copies, rulingClaims, rulings } from '../db/schema'
import type { claimsOf, rulingRow } from './decision-rows'

/** Keeps a ruling with its claims as the copy's newest. */
export async function keepRuling(
  tx: Tx,
  copyId: number,
  ruling: ReturnType<typeof rulingRow>,
  claims: ReturnType<typeof claimsOf>,
): Promise<number> {
  const before = await tx.select({ id: rulings.id }).from(rulings).where(eq(rulings.copyId, copyId))
  const [row] = await tx
    .insert(rulings)
    .values({ ...ruling, at: new Date(ruling.at), copyId, sequence: before.length + 1 })
    .returning({ id: rulings.id })
  if (claims.length) await tx.insert(rulingClaims).values(claims.map(c => ({ ...c, rulingId: row!.id, copyId })))
  await tx.update(copies).set({ rulingId: row!.id }).where(eq(copies.id, copyId))
  return row!.id
}
