import { createHash } from 'node:crypto'
import { RateLimiterPostgres, RateLimiterRes } from 'rate-limiter-flexible'
import { makeAddress } from '#core'
import { dbPool } from '../db/client'
import { Problem } from '../platform/problem'

const MINUTES = 10
/** Wrong passwords for one account from one client, for one account from everywhere, and from one client, in ten minutes. */
const MAX = { pair: 10, account: 100, client: 100 }

type Counted = keyof typeof MAX

const limiters = new Map<Counted, RateLimiterPostgres>()

// In the database: an attempt counts whichever process it comes to, and is not forgotten by a restart.
function limiter(counted: Counted): RateLimiterPostgres {
  const there = limiters.get(counted)
  if (there) return there
  const made = new RateLimiterPostgres({
    storeClient: dbPool(),
    storeType: 'pool',
    tableName: 'rate_limits',
    tableCreated: true,
    keyPrefix: counted,
    points: MAX[counted],
    duration: MINUTES * 60,
  })
  limiters.set(counted, made)
  return made
}

/** Under what an attempt is counted, each spelling of an address the same; as hashes, since anything may have been typed. */
function keysOf(client: string, email: string): Record<Counted, string> {
  const { key } = makeAddress(email)
  const hash = (text: string) => createHash('sha256').update(text).digest('base64url')
  return { pair: hash(`${client} ${key}`), account: hash(key), client: hash(client) }
}

/**
 * Counts an attempt to sign in before the password is looked at, so that many at once are counted too.
 * @throws 429 where there were too many
 */
export async function limitSignIn(client: string, email: string): Promise<void> {
  const keys = keysOf(client, email)
  for (const counted of ['client', 'pair', 'account'] as const) {
    try {
      await limiter(counted).consume(keys[counted])
    }
    catch (result) {
      if (!(result instanceof RateLimiterRes)) throw result
      const seconds = Math.ceil(result.msBeforeNext / 1000)
      throw new Problem(
        429,
        'Too many attempts',
        `Wait ${Math.ceil(seconds / 60)} minutes before you try again.`,
        { headers: { 'retry-after': String(seconds) } },
      )
    }
  }
}

/** The password was right: what was counted for this account is forgotten, and this attempt is not held against the client. */
export async function forgetFailures(client: string, email: string): Promise<void> {
  const keys = keysOf(client, email)
  await limiter('pair').delete(keys.pair)
  await limiter('account').reward(keys.account)
  await limiter('client').reward(keys.client)
}
