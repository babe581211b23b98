import { eq } from 'drizzle-orm'
import { db } from './client'
import { settings } from './schema'

/** Under which keys settings are kept that more than one room reads. */
export const TIME_ZONE = 'timeZone'

/** A setting, or what is so unless it was set. */
export async function setting<T>(key: string, unless: T): Promise<T> {
  const [row] = await db().select({ value: settings.value }).from(settings).where(eq(settings.key, key))
  return row === undefined ? unless : (row.value as T)
}
