import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { decide, IndexedPolicy, reasonsFor, decisionFor, type Claim, type Reason, type Rule } from '#core'
import { clauseWords, claimText, outcomeWords, decisionSentence, shortReasonOf, shortReasonWords } from '#core/words'
import { letter, NOW, OURS, policy } from '../../support/build'

const SECRET = 'zq-secret'
const OSKAR = 'person:oskar'
const rule = (id: string, owner: string, claims: Claim[], over: Partial<Rule> = {}): Rule => ({
  id,
  name: `${id} ${owner === OSKAR ? SECRET : 'open'}`,
  owner,
  state: 'enabled',
  when: { phrases: [owner === OSKAR ? SECRET : 'offer'] },
  except: [],
  claims,
  ...over,
})
const everything = async (rules: Rule[]) => {
  const p = policy({
    rules,
    lists: [
      {
        id: 'mine',
        name: `list ${SECRET}`,
        owner: OSKAR,
        usualSide: 'allow',
        enabled: true,
        entries: [{ id: 'e', kind: 'address', value: 'a@x.test' }],
      },
    ],
    assignments: [{ id: 'b', list: 'mine', owner: OSKAR, side: 'allow', state: 'enabled', protect: ['spam'] }],
  })
  const decision = decide(
    await letter({ from: 'a@x.test', text: `An offer: ${SECRET}` }),
    `oskar@${OURS}`,
    IndexedPolicy.build(p),
    { now: NOW },
  )
  return { p, decision }
}
/** All that any screen makes of reasons. */
const shown = (reasons: Reason[], decidedBy: number | null, p: Awaited<ReturnType<typeof everything>>['p']) =>
  JSON.stringify([
    reasons.map(({ clause, claim, outcome, evidence, lostExceptions }) => ({
      clause,
      claim,
      outcome,
      evidence,
      lostExceptions,
    })),
    reasons.map(r => [clauseWords(r.clause), claimText(r, p), outcomeWords(r, p)]),
    decisionSentence({ lane: 'spam', quarantine: null, reasons, decidedBy }, p),
    shortReasonWords(shortReasonOf({ reasons, decidedBy })),
  ])

describe('reasons for others: an administrator who explains a copy would read its owner’s own rules', () => {
  const claims: Claim[][] = [
    [{ stop: { to: 'spam' } }],
    [{ stop: { to: 'refuse', reply: SECRET } }],
    [{ place: { to: 'folder', folder: SECRET } }],
    [{ protect: ['spam', 'quarantine', 'delete', 'refuse'] }, { place: { to: 'inbox' } }],
    [{ effect: { kind: 'tag', value: SECRET } }],
  ]
  it('hold no name, word, folder or tag of them, whatever became of their claims', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(
          fc.record({
            mine: fc.boolean(),
            claim: fc.constantFrom(...claims),
            state: fc.constantFrom('enabled' as const, 'monitor' as const),
            end: fc.boolean(),
            excepted: fc.boolean(),
          }),
          { minLength: 1, maxLength: 5 },
        ),
        async (asked) => {
          const rules = asked.map(({ mine, claim, state, end, excepted }, i) =>
            rule(`r${i}`, mine ? OSKAR : 'organisation', mine ? claim : [{ stop: { to: 'spam' } }], {
              state,
              ...(end ? { end: 'owner' as const } : {}),
              except: mine && excepted ? [{ phrases: [SECRET] }] : [],
            }),
          )
          const { p, decision } = await everything(rules)
          const others = reasonsFor('person:somebody', decision.reasons)
          expect(shown(others, decision.decidedBy, p)).not.toContain(SECRET)
          const whole = decisionFor('person:somebody', decision)
          expect(JSON.stringify(whole)).not.toContain(SECRET)
          expect([whole.lane, whole.decidedBy, whole.stop?.to]).toEqual([decision.lane, decision.decidedBy, decision.stop?.to])
          expect(decisionFor(OSKAR, decision)).toBe(decision)
          expect(others).toHaveLength(decision.reasons.length)
          expect(others.map(r => [r.owner, r.outcome.kind])).toEqual(decision.reasons.map(r => [r.owner, r.outcome.kind]))
          // The reader's own stay as they are, and the organisation's for everybody.
          expect(reasonsFor(OSKAR, decision.reasons)).toEqual(decision.reasons)
          const open = (reasons: readonly Reason[]) =>
            reasons.filter(r => r.owner !== OSKAR).map(r => [r.clause, r.claim, r.evidence])
          expect(open(others)).toEqual(open(decision.reasons))
        },
      ),
      { numRuns: 150, seed: 7 },
    )
  })
  it('can still be told apart, and say what they did', async () => {
    const { p, decision } = await everything([
      rule('a', OSKAR, [{ stop: { to: 'bin' } }]),
      rule('b', OSKAR, [{ stop: { to: 'spam' } }]),
    ])
    const others = reasonsFor('person:somebody', decision.reasons)
    expect(new Set(others.map(r => r.clause.id)).size).toBe(
      new Set(decision.reasons.map(r => `${r.clause.kind} ${r.clause.id}`)).size,
    )
    expect(decisionSentence({ ...decision, reasons: others }, p)).toBe('Moved to Bin because of a colleague’s rule.')
    expect(others.map(r => `${clauseWords(r.clause)}: ${claimText(r, p)}`)).toEqual(
      expect.arrayContaining(['a colleague’s rule: move to Bin', 'a colleague’s list: allow despite spam']),
    )
  })
})
