import type { MessagePort } from 'node:worker_threads'
import { and, inArray } from 'drizzle-orm'
import type { Policy, Rule } from '#core'
import { keysOfRules, partsOf, PartCounter, type LookupKeys, type Looked, type Marks, type Part, type PartImpact } from '#core/simulate'
import { visibleTo } from '../access/copy-access'
import type { Actor } from '../access/roles'
import { copies } from '../db/schema'
import { inScope, scopeOf, withLookupKeys } from '../impact/affected-mail'
import { indexedFor, openArchive, type OpenArchive, type WithEdition } from './archive-thread'
import type { Needs } from './mail'
import { MailInScope } from './mail-in-scope'
import { NewestFirst, type Passed } from './newest-first'

/** A rule of which it is to be told what each of its parts does. */
export interface ToTakeApart extends WithEdition {
  rule: Rule
  /** ISO 8601 instant against which expiry is decided. */
  now: string
  /** Among the mail that this one may see. */
  actor: Actor
  /** Told of what was found so far, where that is wanted. */
  port?: MessagePort
  /** Set to 1 when nobody waits any more. */
  stop: Int32Array
}

/** What each part of a rule does to the mail that is here. */
export interface TakenApart extends Looked {
  whole: Marks
  parts: PartImpact[]
}

const BATCH_SIZE = 500
const TELL_EVERY = 400

/** Counts what each part of a rule does to all of the mail in its scope, off the thread that serves people. */
export async function takeApart(asked: ToTakeApart): Promise<TakenApart | Needs> {
  const indexed = indexedFor(asked)
  if (!indexed) return { needs: asked.number }
  const open = await openArchive()
  const { rule } = asked
  const parts = partsOf(rule)
  const counter = new PartCounter(indexed, rule, parts)
  await open.client.query('begin isolation level repeatable read read only')
  try {
    return await count(asked, { open, counter, policy: indexed.compiled.policy, keys: keysOf(rule, parts, indexed.compiled.policy) })
  }
  finally {
    await open.client.query('rollback')
  }
}

// Each of its variants may catch what the whole does not.
function keysOf(rule: Rule, parts: readonly Part[], policy: Policy): LookupKeys {
  return keysOfRules([rule, ...parts.flatMap(p => [p.alone, p.without]).filter(variant => variant !== null)], policy)
}

interface Counting {
  open: OpenArchive
  counter: PartCounter
  policy: Policy
  keys: LookupKeys
}

async function count({ rule, now, actor, port, stop }: ToTakeApart, { open, counter, policy, keys }: Counting): Promise<TakenApart> {
  const over = inScope(scopeOf(policy, new Set([rule.owner]), (rule.direction ?? 'inbound') !== 'inbound'))
  const scope = new MailInScope(open.db, and(over, visibleTo(actor)))
  await scope.count()
  const mail = new NewestFirst(open, [and(scope.where, withLookupKeys(keys))])
  await mail.begin()
  const report = async (last: Passed | null): Promise<TakenApart> => {
    await scope.upTo(last)
    const { looked, inScope: of } = scope.seen
    return { ...counter.report(), looked, inScope: of }
  }
  let lastTold = Date.now()
  for (;;) {
    const passed = await mail.take(BATCH_SIZE)
    if (!passed.length) return report(null)
    const ids = passed.map(p => p.id)
    const marked = new Map((await open.db
      .select({ id: copies.id, judgement: copies.judgement })
      .from(copies)
      .where(inArray(copies.id, ids))).map(c => [c.id, c.judgement]))
    for (const { id, message, recipient } of await open.archive.messages(ids, policy.trust))
      if (message) counter.add({ message, recipient, judgement: marked.get(id) ?? null }, now)
    if (Atomics.load(stop, 0)) return report(passed.at(-1)!)
    if (port && Date.now() - lastTold > TELL_EVERY) {
      port.postMessage(await report(passed.at(-1)!))
      lastTold = Date.now()
    }
  }
}
