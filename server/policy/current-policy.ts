import type { Policy } from '#core'
import type { Tx } from '../db/client'
import { activePolicy } from './active-policy'
import { loadWithoutEntries } from './store'

/**
 * The policy of a version, without its entries. What this process follows is the one that stands, mostly, and need not be read once
 * more.
 * @param unseen somebody else's transaction has made people and departments that nobody sees yet: all of it is read
 */
export async function currentPolicy(tx: Tx, version: number, unseen: boolean): Promise<Policy> {
  if (!unseen && version > 0) {
    const { policy } = await activePolicy()
    if (policy.version === version) return policy
  }
  return loadWithoutEntries(tx, version)
}
