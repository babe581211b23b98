import { setTimeout as sleep } from 'node:timers/promises'
import type pg from 'pg'
import { EntryTable, IndexedPolicy, type Policy } from '#core'
import { dbPool, separateClient } from '../db/client'
import { faultText, log } from '../platform/log'
import type { Edition } from '../workers/editions'
import { compileOnThread } from './on-threads'
import { currentVersion, POLICY_CHANNEL } from './store'

/** A policy that this process follows, ready for deciding. */
export interface ActivePolicy {
  policy: Policy
  /** What the door asks before the content: who is who, and the entries, indexed. Rules are asked of the content, on worker threads. */
  envelopeLists: IndexedPolicy
  /** The same, as worker threads take it. */
  edition: Edition
  /** Entries by list; the policy itself holds none, they are in the table. */
  sizes: ReadonlyMap<string, number>
}

let current: ActivePolicy | null = null
let since: Date | null = null
let loading: Promise<ActivePolicy> | null = null
let listener: pg.Client | null = null
let stopping = false
let peopleChanged = false
let editions = 0

const PEOPLE = 'people'

/** The policy by which this process decides; loaded at the first call, then kept up to date. */
export async function activePolicy(): Promise<ActivePolicy> {
  return current ?? refreshPolicy()
}

/** Which version this process follows, and since when it is active. */
export function followed(): { version: number | null, since: string | null } {
  return { version: current?.policy.version ?? null, since: since?.toISOString() ?? null }
}

/** Loads the newest version. Calls that come while it loads wait for one more load, so that none is answered too early. */
export function refreshPolicy(): Promise<ActivePolicy> {
  const next = (loading ?? Promise.resolve())
    .catch(() => undefined)
    .then(async () => {
      const version = await currentVersion()
      if (!current || current.policy.version !== version.number || peopleChanged) {
        const hadChanged = peopleChanged
        peopleChanged = false
        const { policy, table, sizes } = await compileOnThread(
          current && { version: current.policy.version, table: current.edition.table, lists: current.policy.lists.map(l => l.id) },
        ).catch((error: unknown) => {
          // The next load has to tell of them still.
          peopleChanged ||= hadChanged
          throw error
        })
        const envelopeLists = IndexedPolicy.build({ ...policy, rules: [] }, new EntryTable(table))
        current = { policy, envelopeLists, edition: { number: ++editions, policy, table }, sizes }
        since = version.since
      }
      return current
    })
  loading = next
  return next
}

/** Says that people, departments, domains or trust have changed, which no version of the clauses tells. */
export async function refreshPeople(): Promise<void> {
  peopleChanged = true
  await refreshPolicy()
  await dbPool().query('select pg_notify($1, $2)', [POLICY_CHANNEL, PEOPLE])
}

/** Follows changes made by other processes (LISTEN), on a connection of its own that comes back when it is lost. */
export async function followPolicy(): Promise<void> {
  stopping = false
  await listen()
}

async function listen(): Promise<void> {
  const client = separateClient('policy')
  let connected = false
  client.on('notification', ({ payload }) => {
    peopleChanged ||= payload === PEOPLE
    refreshPolicy().catch(error => log.error({ error: faultText(error) }, 'a new policy version could not be loaded'))
  })
  client.on('error', error => log.warn({ error: error.message }, 'the policy listener lost its connection'))
  client.on('end', () => {
    if (connected) void comeBack()
  })
  await client.connect()
  connected = true
  listener = client
  await client.query(`listen ${POLICY_CHANNEL}`)
  await refreshPolicy() // whatever changed while nobody listened
}

async function comeBack(): Promise<void> {
  while (!stopping) {
    await sleep(500)
    try {
      if (!stopping) await listen()
      return
    }
    catch (error) {
      log.warn({ error: faultText(error) }, 'the policy listener could not come back yet')
    }
  }
}

export async function unfollowPolicy(): Promise<void> {
  stopping = true
  await listener?.end()
  listener = null
}
