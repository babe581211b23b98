import { isNull, sql } from 'drizzle-orm'
import { quarantines } from '../db/schema'
import type { Asker } from '../access/roles'
import { changePolicy, newId } from './store'
import { refreshPolicy } from './in-force'
import { invalid } from '../platform/problem'

/** Makes a named quarantine besides the general one. */
export async function makeQuarantine(asker: Asker, name: string): Promise<{ id: string, name: string }> {
  const id = newId()
  await changePolicy(asker.id, 'organisation', `Quarantine “${name}” made`, async (change) => {
    const [same] = await change.tx
      .select({ id: quarantines.id })
      .from(quarantines)
      .where(sql`lower(${quarantines.name}) = lower(${name}) and ${isNull(quarantines.toVersion)}`)
    if (same) throw invalid(`There is a quarantine “${name}” already.`, { name: 'This name is taken.' })
    await change.tx.insert(quarantines).values({ id, name, general: false, fromVersion: change.version })
  })
  await refreshPolicy()
  return { id, name }
}
