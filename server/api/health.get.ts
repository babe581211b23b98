import { sql } from 'drizzle-orm'
import { db } from '../db/client'
import { defineRoute } from '../http/route'
import { followed } from '../services/policy-in-force'
import { Problem } from '../services/problem'
import { isReady, processRoles } from '../services/readiness'

export default defineRoute({}, async () => {
  if (!isReady()) throw new Problem(503, 'Starting', 'This process is not ready yet; ask again in a moment.', {}, { 'retry-after': '1' })
  await db().execute(sql`select 1`)
  return { status: 'ok', roles: processRoles(), policy: followed() }
})
