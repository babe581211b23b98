import { setTimeout as sleep } from 'node:timers/promises'
import { sql } from 'drizzle-orm'
import { mailDb } from '../db/client'
import { databaseAway, defineRoute } from '../access/route'
import { followed } from '../policy/active-policy'
import { Problem } from '../platform/problem'
import { databaseNote, isReady, processRoles } from '../platform/readiness'

/** Whoever asks how a process is does not wait longer, in milliseconds. */
const PATIENCE = 800

export default defineRoute({}, async () => {
  if (!isReady())
    throw new Problem(503, 'Starting', 'This process is not ready yet. Try again in a moment.', { headers: { 'retry-after': '1' } })
  if (databaseNote()) throw databaseAway()
  const asked = mailDb()
    .execute(sql`select 1`)
    .then(() => true)
  const answered = await Promise.race([asked, sleep(PATIENCE, false)])
  if (!answered) throw databaseAway()
  return { status: 'ok', roles: processRoles(), policy: followed() }
})
