import { domainToAscii, isMailDomain } from '#core'
import type { Tx } from '../db/client'
import { domains } from '../db/schema'

/** Writes down our own domains; what no mail can be for is left out and returned. */
export async function addDomains(tx: Tx, names: readonly string[]): Promise<string[]> {
  const wrong: string[] = []
  for (const name of names) {
    const domain = domainToAscii(name)
    if (domain && isMailDomain(domain)) await tx.insert(domains).values({ domain }).onConflictDoNothing()
    else wrong.push(name)
  }
  return wrong
}
