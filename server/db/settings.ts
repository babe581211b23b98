import { eq } from 'drizzle-orm'
import { db } from './client'
import { settings } from './schema'

/** Under which keys settings are kept that more than one room reads. */
export const TIME_ZONE = 'timeZone'
export const VERIFICATION = 'verification'

/** Own verification of senders. */
export interface VerificationSettings {
  /** Off: only trusted relays say who is verified. */
  enabled: boolean
  /** Addresses of DNS servers, with a port if it is not 53; empty for those of the environment or the system. */
  servers: string[]
}

export const DEFAULT_VERIFICATION: VerificationSettings = { enabled: true, servers: [] }

/** A setting, or what is so unless it was set. */
export async function setting<T>(key: string, unless: T): Promise<T> {
  const [row] = await db().select({ value: settings.value }).from(settings).where(eq(settings.key, key))
  return row === undefined ? unless : (row.value as T)
}
