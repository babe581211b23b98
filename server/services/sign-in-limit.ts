import { RateLimiterMemory, type RateLimiterRes } from 'rate-limiter-flexible'
import { Problem } from './problem'

const limiter = new RateLimiterMemory({ points: 10, duration: 10 * 60 })

/** Counts an attempt to sign in; ten in ten minutes from one address to one account are the most. */
export async function limitSignIn(key: string): Promise<void> {
  try {
    await limiter.consume(key)
  }
  catch (result) {
    const seconds = Math.ceil((result as RateLimiterRes).msBeforeNext / 1000)
    throw new Problem(429, 'Too many attempts', `Wait ${Math.ceil(seconds / 60)} minutes before you try this account again.`, {}, { 'retry-after': String(seconds) })
  }
}

export async function forgetFailures(key: string): Promise<void> {
  await limiter.delete(key)
}
