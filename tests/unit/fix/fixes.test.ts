import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import {
  compilePolicy,
  decide,
  isDelivered,
  settling,
  type ClauseRef,
  type CompiledPolicy,
  type Message,
  type Policy,
} from '#core'
import { apply, completed, type PolicyChange } from '#core/change'
import { causesOf, fixesFor, ratesOf, type Mistake, type Should } from '#core/fix'
import { arbitraryPolicy } from '../../support/arbitrary'
import { letter, NOW, OURS, policy } from '../../support/build'
import { arbitraryParsed } from '../../support/parsed'

const OSKAR = `oskar@${OURS}`
const numbered = () => {
  let n = 0
  return () => `made-${++n}`
}
const making = () => ({
  owners: [{ owner: 'organisation', name: 'everybody' }, { owner: 'person:oskar', name: 'Oskar' }],
  id: numbered(),
  now: NOW,
})

interface Archived {
  id: number
  message: Message
  recipient: string
  judgement: 'wanted' | 'unwanted' | null
}

/** Compiled once for each policy: many copies are asked of it. */
const compiled = new WeakMap<Policy, CompiledPolicy>()
function laneUnder(policy: Policy, { message, recipient }: Pick<Archived, 'message' | 'recipient'>) {
  const known = compiled.get(policy) ?? compilePolicy(policy)
  compiled.set(policy, known)
  return decide(message, recipient, known, { now: NOW }).lane
}

/** Clauses that changes alter or take away; what they only make anew is none. */
function altered(policy: Policy, changes: readonly PolicyChange[]): string[] {
  return changes.flatMap((c): string[] => {
    if (c.type === 'put' && c.kind === 'rule') return policy.rules.some(r => r.id === c.value.id) ? [`rule ${c.value.id}`] : []
    if (c.type === 'put' && c.kind === 'assignment') return policy.assignments.some(b => b.id === c.value.id) ? [`list ${c.value.id}`] : []
    if (c.type === 'remove' && c.kind === 'entries') return policy.assignments.filter(b => b.list === c.list).map(b => `list ${b.id}`)
    return []
  })
}

/** All smallest sets, found by trying every set of everything that matched. */
function everySmallestSet(message: Message, policy: Policy, should: Should): Set<string>[] {
  const settled = settling(message, OSKAR, compilePolicy(policy), { now: NOW })
  const clauses = [...new Map(settled([]).reasons.map(r => [`${r.clause.kind} ${r.clause.id}`, r.clause])).values()]
  const found: ClauseRef[][] = []
  for (let bits = 1; bits < 2 ** clauses.length; bits++) {
    const set = clauses.filter((_, i) => bits & (1 << i))
    if (set.length <= 3 && isDelivered(settled(set).lane) === (should === 'delivered')) found.push(set)
  }
  const smallest = Math.min(...found.map(s => s.length))
  return found.filter(s => s.length === smallest).map(s => new Set(s.map(c => `${c.kind} ${c.id}`)))
}

const judgement = fc.constantFrom('wanted' as const, 'unwanted' as const, null)
const arbitraryArchive = fc.array(fc.tuple(arbitraryParsed, judgement), { minLength: 6, maxLength: 6 })

describe('a correct', () => {
  it('offered first does the least harm for each mistake that it corrects: nobody pays more than it costs', () => {
    let tried = 0
    fc.assert(
      fc.property(arbitraryPolicy, arbitraryArchive, (policy, mail) => {
        const archive: Archived[] = mail.map(([message, judgement], id) => ({ id, message, recipient: OSKAR, judgement }))
        for (const should of ['delivered', 'stopped'] as const) {
          const wrong = archive.filter(c => isDelivered(laneUnder(policy, c)) !== (should === 'delivered')).slice(0, 2)
          if (!wrong.length) continue
          const mistakes: Mistake[] = wrong.map(c => ({ ...c, should }))
          const fixes = fixesFor(policy, mistakes, { ...making(), archive })
          const said = should === 'delivered' ? ('wanted' as const) : ('unwanted' as const)
          // What is to be put right says nothing of the rest.
          const rest = archive.filter(c => !wrong.some(w => w.id === c.id))
          const marked = archive.map(c => (wrong.some(w => w.id === c.id) ? { ...c, judgement: said } : c))
          const rates = ratesOf(
            rest.flatMap(c => (c.judgement ? [{ judgement: c.judgement, lane: laneUnder(policy, c), copies: 1 }] : [])),
          )
          // Each is applied and every copy decided anew, clause by clause, without an index.
          const plain = fixes.map(({ changes, opens }) => {
            const applied = apply(policy, completed(changes, { id: numbered(), now: NOW, by: null }))
            if ('problems' in applied) throw new Error(JSON.stringify(applied.problems))
            const lanes = marked.map(c => ({ before: laneUnder(policy, c), after: laneUnder(applied.policy, c), judgement: c.judgement }))
            // By hand: a marked one is a mistake or none; another as often as its sender's mail is, or else the archive's.
            let harm = 0
            for (const [i, { before, after, judgement }] of lanes.entries()) {
              if (isDelivered(before) === isDelivered(after)) continue
              const bad = isDelivered(after) ? ('unwanted' as const) : ('wanted' as const)
              const { message } = marked[i]!
              const isPassed = message.attempt.authentication.verdict === 'pass'
              const alike = marked.filter(c =>
                c.judgement && c.message.content.from[0]?.key === message.content.from[0]?.key
                && (bad === 'wanted' || (isPassed && c.message.attempt.authentication.verdict === 'pass')))
              const rate = bad === 'unwanted' ? rates.unwantedStopped : rates.wantedDelivered
              harm += judgement ? Number(judgement === bad) : (alike.filter(c => c.judgement === bad).length + rate) / (alike.length + 1)
            }
            return {
              opens,
              corrects: wrong.filter(w => isDelivered(laneUnder(applied.policy, w)) === (should === 'delivered')).length,
              harm,
            }
          })
          // What opens the way for anybody's mail comes last, whatever else it does.
          const opening = plain.findIndex(p => p.opens)
          expect(plain.slice(opening < 0 ? plain.length : opening).every(p => p.opens)).toBe(true)
          const careful = plain.filter(p => !p.opens)
          if (careful.length < 2) continue
          tried++
          const each = careful.map(p => p.harm / p.corrects)
          for (const other of each) expect(each[0]).toBeLessThanOrEqual(other + 1e-9)
        }
      }),
      { seed: 33, numRuns: 140 },
    )
    expect(tried).toBeGreaterThan(60)
  })

  it('touches no clause that is in no smallest set to blame: what did nothing wrong is left alone', () => {
    let caused = 0
    fc.assert(
      fc.property(arbitraryPolicy, arbitraryParsed, (policy, message) => {
        const lane = laneUnder(policy, { message, recipient: OSKAR })
        const should: Should = isDelivered(lane) ? 'stopped' : 'delivered'
        const found = causesOf({ id: 1, message, recipient: OSKAR, should }, compilePolicy(policy), NOW)
        const every = everySmallestSet(message, policy, should)
        expect(
          new Set(found.sets.map(s => s.map(c => `${c.kind} ${c.id}`).sort().join('+'))),
        ).toEqual(new Set(every.map(s => [...s].sort().join('+'))))
        if (!every.length) return
        caused++
        const fixes = fixesFor(policy, [{ id: 1, message, recipient: OSKAR, should }], { ...making(), archive: [] })
        const sets = new Set(every.flatMap(s => [...s]))
        // An exception that exempted what should have been stopped may be taken out; and a list is used by several clauses.
        const excepted = found.decision.reasons.filter(r => r.outcome.kind === 'excepted').map(r => `rule ${r.clause.id}`)
        const sameList = policy.assignments.filter(b => sets.has(`list ${b.id}`)).flatMap(
          b => policy.assignments.filter(o => o.list === b.list).map(o => `list ${o.id}`),
        )
        for (const { changes, sentence } of fixes)
          for (const clause of altered(policy, changes)) expect([...sets, ...excepted, ...sameList], sentence).toContain(clause)
      }),
      { seed: 34, numRuns: 400 },
    )
    expect(caused).toBeGreaterThan(25)
  })
})

describe('what stopped an honest invoice', () => {
  const rule = (over: object) => ({
    id: 'fee',
    name: 'Fee demands',
    owner: 'organisation',
    mandatory: true,
    state: 'enabled',
    except: [],
    claims: [{ stop: { to: 'quarantine', quarantine: 'general' } }],
    ...over,
  })
  const invoice = () => letter({ from: 'accounts@quayline.example', subject: 'Invoice 7718', text: 'a handling fee applies', auth: 'pass' })
  const forged = () => letter({ from: 'x@fraud.test', subject: 'Pay', text: 'pay the release fee or the handling fee now', auth: 'fail' })
  const fixes = async (clauses: Parameters<typeof policy>[0], others: Archived[] = []) => {
    const message = await invoice()
    return fixesFor(policy(clauses), [{ id: 1, message, recipient: OSKAR, should: 'delivered' }], {
      ...making(),
      archive: [{ id: 1, message, recipient: OSKAR, judgement: null }, ...others],
    })
  }

  it('is told with what else each change lets in: the cheapest is the first, and every price stands there', async () => {
    const fraud: Archived = { id: 2, message: await forged(), recipient: OSKAR, judgement: 'unwanted' }
    const found = await fixes({ rules: [rule({ when: { phrases: ['handling fee'] } })] as never }, [fraud])
    expect(found[0]!.sentence).toBe('Add an exception for accounts@quayline.example, if verified, to rule “Fee demands”')
    expect(found[0]!.price).toMatchObject({ moves: 1, rights: 1, wrongs: 0, harm: 0 })
    const off = found.find(m => m.kind === 'disabled')!
    expect(off.price).toMatchObject({ moves: 2, wrongs: 1, harm: 1 })
    expect(found.indexOf(off)).toBeGreaterThan(0)
  })

  it('is corrected where two rules stop it only by both together', async () => {
    const found = await fixes({
      rules: [
        rule({ when: { phrases: ['handling fee'] } }),
        rule({ id: 'inv', name: 'Invoices', when: { phrases: ['invoice'] } }),
      ] as never,
    })
    expect(found[0]!.changes).toHaveLength(2)
    expect(found[0]!.fixes).toBe(1)
    // One of the two alone is no fix.
    expect(found.every(m => m.changes.length === 2 || m.fixes === 1)).toBe(true)
  })

  it('does not allow a sender where that comes too late, under a must rule', async () => {
    const found = await fixes({ rules: [rule({ when: { phrases: ['handling fee'] } })] as never })
    expect(found.filter(m => m.kind.startsWith('sender:'))).toEqual([])
  })

  it('narrows a phrase that was found inside a word, and takes an entry off that caught too much', async () => {
    const part = await fixes({ rules: [rule({ when: { phrases: ['andling'], whole: false } })] as never })
    expect(part.map(m => m.sentence)).toContain('Match whole words only in rule “Fee demands”')
    const lists = [{
      id: 'l',
      name: 'Blocked',
      owner: 'organisation',
      usualSide: 'block',
      enabled: true,
      entries: [{ id: 'e', kind: 'domainAndSubdomains', value: 'quayline.example' }],
    }]
    const assignments = [{ id: 'b', list: 'l', owner: 'organisation', side: 'block', state: 'enabled', stop: { to: 'spam' } }]
    const listed = await fixes({ lists, assignments } as never)
    expect(listed.map(m => m.sentence)).toContain('Remove @quayline.example and subdomains from list “Blocked”')
  })

  it('never widens a rule by taking its only phrase out: mail that it did not hold is not held by the correct', async () => {
    const both = rule({ when: { all: [{ phrases: ['handling fee'] }, { sender: { kind: 'domain', value: 'quayline.example' } }] } })
    for (const { changes } of await fixes({ rules: [both] as never })) {
      const applied = apply(policy({ rules: [both] as never }), completed(changes, { id: numbered(), now: NOW, by: null }))
      if ('problems' in applied) throw new Error('notApplied')
      const other = await letter({ from: 'desk@quayline.example', text: 'nothing of the kind', auth: 'pass' })
      expect(isDelivered(laneUnder(applied.policy, { message: other, recipient: OSKAR }))).toBe(true)
    }
  })
})

describe('what let unwanted mail in', () => {
  it('is corrected at the allow entry, at the exception, or by a block: each named', async () => {
    const message = await letter({ from: 'news@bulk.example', text: 'offers offers', auth: 'pass' })
    const clauses = {
      lists: [{
        id: 'l',
        name: 'Partners',
        owner: 'organisation',
        usualSide: 'allow',
        enabled: true,
        entries: [{ id: 'e', kind: 'domain', value: 'bulk.example' }],
      }],
      assignments: [{ id: 'b', list: 'l', owner: 'organisation', side: 'allow', state: 'enabled' }],
      rules: [
        {
          id: 'o',
          name: 'Offers',
          owner: 'organisation',
          state: 'enabled',
          when: { phrases: ['offers'] },
          except: [],
          claims: [{ stop: { to: 'spam' } }],
        },
        {
          id: 'x',
          name: 'Spared',
          owner: 'organisation',
          state: 'enabled',
          overridesLists: true,
          when: { phrases: ['offers'] },
          except: [{ sender: { kind: 'domain', value: 'bulk.example' } }],
          claims: [{ stop: { to: 'spam' } }],
        },
      ],
    }
    const found = fixesFor(policy(clauses as never), [{ id: 1, message, recipient: OSKAR, should: 'stopped' }], {
      ...making(),
      archive: [{ id: 1, message, recipient: OSKAR, judgement: 'unwanted' }],
    })
    const sentences = found.map(m => m.sentence)
    expect(sentences).toContain('Remove @bulk.example from list “Partners”')
    expect(sentences).toContain('Remove the exception from rule “Spared”')
    expect(sentences).toContain('Block news@bulk.example for everybody')
  })
})
