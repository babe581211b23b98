import { and, asc, eq, gt, isNotNull } from 'drizzle-orm'
import { recordEvent } from '../audit/record'
import { COMMAND_LINE, type Actor } from '../access/roles'
import { jobsDb, type Tx } from '../db/client'
import { copies, quarantineSettings, type AfterWait } from '../db/schema'
import { notRequested } from '../requests/open-requests'
import { hereBefore, NOT_ASKED_FOR } from './erase'
import { moveRows } from '../copies/moves'
import { possibleForgeries } from '../copies/possible-forgeries'

const BATCH_SIZE = 50
const DAY = 24 * 3600_000

// Nobody's act: the audit log has it as the product's own.
const THE_EXPIRY: Actor = { ...COMMAND_LINE, name: 'quarantine expiry' }

/** What deals with held mail that has waited as long as is settled, a piece at a time; one for each quarantine that has an end. */
export async function quarantineExpiry(): Promise<((tx: Tx) => Promise<number>)[]> {
  const rows = await jobsDb()
    .select({ id: quarantineSettings.quarantineId, days: quarantineSettings.waitDays, then: quarantineSettings.afterWait })
    .from(quarantineSettings)
    .where(isNotNull(quarantineSettings.waitDays))
    .orderBy(asc(quarantineSettings.quarantineId))
  return rows.map(({ id, days, then }) => {
    // What stays is not looked at twice.
    let after = 0
    return async (tx) => {
      const waited = await endWaits(tx, id, { days: days!, then, after })
      after = waited.at(-1) ?? after
      return waited.length
    }
  })
}

/** @returns ids of what was looked at; what may be forged is let in by nobody unawares, and stays */
async function endWaits(
  tx: Tx,
  quarantine: string,
  { days, then, after }: { days: number, then: AfterWait, after: number },
): Promise<number[]> {
  const before = new Date(Date.now() - days * DAY)
  const waited = await tx
    .select()
    .from(copies)
    .where(
      and(
        eq(copies.lane, 'quarantine'),
        eq(copies.quarantineId, quarantine),
        hereBefore(before),
        NOT_ASKED_FOR,
        gt(copies.id, after),
      ),
    )
    .orderBy(asc(copies.id))
    .limit(BATCH_SIZE)
    // Without SKIP LOCKED: a copy that is locked now would otherwise wait until the next daily run.
    .for('update')
  const ids = waited.map(c => c.id)
  const unasked = await notRequested(tx, waited)
  const forged = new Set(then === 'release' ? (await possibleForgeries(tx, THE_EXPIRY, unasked)).map(f => f.id) : [])
  const rows = unasked.filter(c => !forged.has(c.id))
  if (!rows.length) return ids
  const lane = then === 'release' ? ('inbox' as const) : ('bin' as const)
  const kind = then === 'release' ? 'released' : 'binned'
  const eventId = await recordEvent(tx, { personId: null, kind, detail: { lane, quarantine: null, count: rows.length, waitedDays: days } })
  await moveRows(tx, THE_EXPIRY, rows, { eventId, lane, to: null, ownPlaces: false, unseen: true })
  return ids
}
