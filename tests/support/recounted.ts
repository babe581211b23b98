// What a change does to the mail that is here, counted in the plainest way: every copy is decided under the whole policy before and
// after. No index of words, no cursor, no cache; the figures of the product are held against it.
import isSame from 'fast-deep-equal'
import { decide, IndexedPolicy, isDelivered, isKeptAway, isKeptHere, parseContent, readAttempt, type Message, type Policy } from '#core'
import { apply, completed, type PolicyChange } from '#core/change'
import { endsDifferently, landing, type Impact } from '#core/simulate'
import { storedMessage } from '../../server/intake/stored-message'
import { loadPolicy } from '../../server/policy/store'
import type { Copy, Questions } from './questions'

const NOW = () => new Date().toISOString()

/** The figures that are compared. */
export type Recounted = Pick<Impact, 'moves' | 'erased' | 'here' | 'freed' | 'freedNotVerified' | 'byHand' | 'unwantedStay' | 'inScope'> & {
  /** From one lane to another: how many, by what was said of them. */
  lanes: Record<string, [wanted: number, unwanted: number, unmarked: number, notVerified: number]>
}

/** The same of an impact as it was answered. */
export function figuresOf(impact: Impact): Recounted {
  const { moves, erased, here, freed, freedNotVerified, byHand, unwantedStay, inScope } = impact
  const lanes = Object.fromEntries(impact.lanes
    .filter(l => l.from !== l.to)
    .map(l => [`${l.from} ${l.to}`, [l.wanted, l.unwanted, l.unmarked, l.notVerified] as [number, number, number, number]]))
  return { moves, erased, here, freed, freedNotVerified, byHand, unwantedStay, inScope, lanes }
}

export interface Recount {
  policy: Policy
  copies: { copy: Copy, message: Message | null }[]
  /**
   * @param person only of their own mail
   * @returns null where it depends on the ids of what is made, which are made anew each time: of two entries that are as specific as each
   * other they say which goes first
   */
  of(changes: readonly PolicyChange[], person?: string): Recounted | null
}

/** Reads all mail that is here, and the policy that is active. */
export async function recounting(ask: Questions): Promise<Recount> {
  const policy = await loadPolicy(ask.db)
  const before = IndexedPolicy.build(policy)
  const copies = await Promise.all((await ask.copies()).map(async copy => ({ copy, message: await messageOf(copy, ask, policy) })))
  const now = NOW()
  const was = copies.map(({ copy, message }) => message && decide(message, copy.recipient, before, { now }))
  const of: Recount['of'] = (changes, person) => {
    const [first, last] = ['0', 'z'].map(start => counted(changes, person, start))
    return isSame(first, last) ? first! : null
  }
  return { policy, copies, of }

  function counted(changes: readonly PolicyChange[], person: string | undefined, idsBegin: string): Recounted {
    let made = 0
    const applied = apply(policy, completed(changes, { id: () => `${idsBegin}${made++}`, now, by: null }))
    if ('problems' in applied) throw new Error(JSON.stringify(applied.problems))
    const after = IndexedPolicy.build(applied.policy)
    const own = (at: number) => person === undefined || copies[at]!.copy.personId === person
    const none = () => ({ inbox: 0, lowPriority: 0, spam: 0, quarantine: 0, bin: 0 })
    const out: Recounted = {
      moves: 0, erased: 0, here: none(), freed: none(), freedNotVerified: 0, byHand: 0, unwantedStay: 0, inScope: 0, lanes: {},
    }
    copies.forEach(({ copy, message }, at) => {
      if (!own(at)) return
      out.inScope++
      if (!message) return
      const [from, to] = [was[at]!, decide(message, copy.recipient, after, { now })]
      if (!endsDifferently(from, to)) return
      out.moves++
      if (to.lane === 'discarded') out.erased++
      const isVerified = message.attempt.authentication.verdict === 'pass'
      if (from.lane !== to.lane) {
        const lane = (out.lanes[`${from.lane} ${to.lane}`] ??= [0, 0, 0, 0])
        lane[copy.judgement === 'wanted' ? 0 : copy.judgement === 'unwanted' ? 1 : 2]++
        if (!isVerified) lane[3]++
      }
      const target = landing(to)
      if (!isKeptHere(copy.lane) || (copy.lane === target.lane && copy.quarantineId === target.quarantine)) return
      const frees = isKeptAway(copy.lane) && isDelivered(target.lane)
      if (copy.movedBy !== null) out.byHand++
      else if (frees && copy.judgement === 'unwanted') out.unwantedStay++
      else {
        out.here[copy.lane]++
        if (frees) out.freed[copy.lane]++
        if (frees && !isVerified) out.freedNotVerified++
      }
    })
    return out
  }
}

async function messageOf(copy: Copy, ask: Questions, policy: Policy): Promise<Message | null> {
  const stored = await storedMessage(copy, ask.db)
  if (!stored) return null
  const content = 'content' in stored.read ? stored.read.content : await parseContent(stored.read.bytes)
  return { content, attempt: { ...readAttempt(content, stored.envelope, policy.trust), ...stored.attempt } }
}
