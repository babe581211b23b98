// What a From that nothing verified may open: no change that is offered lets such mail in without saying so.
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { compilePolicy, decide, isDelivered, type Message, type Policy } from '#core'
import { apply, completed, type PolicyChange } from '#core/change'
import { fixesFor, rankWords } from '#core/fix'
import { draftChanges, senderScopesOf } from '#core/suggest'
import { arbitraryPolicy } from '../../support/arbitrary'
import { NOW, OURS } from '../../support/build'
import { severalParsed } from '../../support/parsed'

const OSKAR = `oskar@${OURS}`
const OWNERS = [{ owner: 'person:oskar', name: 'you' }, { owner: 'organisation', name: 'the whole organisation' }]
const numbered = () => {
  let n = 0
  return () => `new-${++n}`
}
const SAYS_SO = /not verified|Anyone can send/

function after(policy: Policy, changes: readonly PolicyChange[]): Policy | null {
  const applied = apply(policy, completed(changes, { id: numbered(), now: NOW, by: null }))
  return 'problems' in applied ? null : applied.policy
}
const isIn = (policy: Policy, message: Message) => isDelivered(decide(message, OSKAR, compilePolicy(policy), { now: NOW }).lane)
const isVerified = ({ attempt }: Message) => attempt.authentication.verdict === 'pass'

describe('what is offered for mail that was stopped', () => {
  it('lets in nothing that is not verified, unless its text says so; and what opens the way for anybody is never first', () => {
    const seen = { said: 0, silent: 0, opens: 0 }
    fc.assert(
      fc.property(arbitraryPolicy, severalParsed(5), (policy, messages) => {
        const stopped = messages.map((message, id) => ({ id, message })).filter(c => !isIn(policy, c.message))
        if (!stopped.length) return
        const archive = messages.map((message, id) => ({ id, message, recipient: OSKAR, judgement: null }))
        const mistakes = stopped.slice(0, 2).map(c => ({ ...c, recipient: OSKAR, should: 'delivered' as const }))
        const fixes = fixesFor(policy, mistakes, { owners: OWNERS, id: numbered(), archive, now: NOW })
        const first = fixes.findIndex(f => f.opens !== undefined)
        if (first >= 0) expect(fixes.slice(first).every(f => f.opens !== undefined)).toBe(true)
        for (const fix of fixes) {
          const now = after(policy, fix.changes)
          if (!now) continue
          const strangers = stopped.filter(c => !isVerified(c.message) && isIn(now, c.message))
          const words = rankWords(fix, 'delivered', mistakes.length)
          if (strangers.length) expect(words).toMatch(SAYS_SO)
          if (fix.opens) seen.opens++
          if (strangers.length) seen.said++
          else seen.silent++
        }
      }),
      { seed: 93, numRuns: 150 },
    )
    // Both happen, or nothing was tried.
    expect(Math.min(seen.said, seen.silent, seen.opens)).toBeGreaterThan(15)
  })

  it('as a sender that is allowed lets in verified mail alone, whoever allows them', () => {
    let tried = 0
    fc.assert(
      fc.property(arbitraryPolicy, severalParsed(4), fc.constantFrom(...OWNERS), (policy, messages, { owner }) => {
        const stopped = messages.filter(m => !isIn(policy, m))
        for (const { entries } of senderScopesOf(stopped.slice(0, 1).map(m => m.content))) {
          const changes = draftChanges(policy, { senders: entries, phrases: [], then: { to: 'inbox' }, owner }, numbered())
          const now = after(policy, changes)
          if (!now) continue
          const freed = stopped.filter(m => isIn(now, m))
          tried += freed.length
          expect(freed.filter(m => !isVerified(m))).toEqual([])
        }
      }),
      { seed: 92, numRuns: 500 },
    )
    expect(tried).toBeGreaterThan(15)
  })
})
