import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { VERDICTS } from '#core/message'
import { isDoubted, LIKELY_FROM, likelihood, mostInformative, subjectKey, whyWords, type Signs } from '#core/review'

const NOTHING: Signs = { asked: false, verdict: 'none', delivered: 0, stopped: 0, wanted: 0, unwanted: 0, opened: 0, marked: 0, right: 0 }
const points = (signs: Partial<Signs>) => likelihood({ ...NOTHING, ...signs }).points

describe('the order of a review', () => {
  it('shows likely mistakes first and first contact last: whose wanted mail waits is found before they give up', () => {
    const order: Partial<Signs>[] = [
      { asked: true },
      { wanted: 4, verdict: 'pass', delivered: 4 },
      { verdict: 'pass', delivered: 58 },
      { delivered: 4, stopped: 1, opened: 4, verdict: 'pass' },
      { delivered: 1, stopped: 2, marked: 10, right: 4, verdict: 'pass' },
      { delivered: 1, stopped: 2, marked: 10, right: 10, verdict: 'pass' },
      // Not verified: what is known of that From is not known of this sender.
      { delivered: 58, wanted: 21, opened: 9 },
      { verdict: 'pass' },
      { wanted: 21, delivered: 21, opened: 21, verdict: 'fail' },
      { unwanted: 6, stopped: 6 },
    ]
    const found = order.map(points)
    expect(found).toEqual([...found].sort((a, b) => b - a))
    expect(new Set(found).size).toBe(order.length)
  })

  it('calls likely only what something speaks for, and says what', () => {
    expect(points({ verdict: 'pass', delivered: 58 })).toBeGreaterThanOrEqual(LIKELY_FROM)
    expect(points({ verdict: 'none', delivered: 58 })).toBeLessThan(LIKELY_FROM)
    expect(
      likelihood({ ...NOTHING, verdict: 'pass', delivered: 58 }).why.map(whyWords),
    ).toEqual(['sender verified; 58 delivered before, none stopped'])
  })

  it('credits a From for nothing that others who wrote it did: a forger would be first by the name of a partner', () => {
    const count = fc.nat(90)
    fc.assert(
      fc.property(fc.record({ wanted: count, delivered: count, opened: count }), (credit) => {
        const others = { stopped: 3, unwanted: 2, marked: 9, right: 2 }
        for (const verdict of ['none', 'fail'] as const)
          expect(points({ ...others, ...credit, verdict })).toBe(points({ ...others, verdict }))
      }),
      { seed: 8 },
    )
  })

  it('never calls likely what failed authentication, even if its recipient asks for it; what speaks against it counts', () => {
    const count = fc.nat(90)
    const signs = fc.record({
      asked: fc.boolean(), delivered: count, stopped: count, wanted: count, unwanted: count, opened: count, marked: count, right: count,
    })
    fc.assert(
      fc.property(signs, (s) => {
        const { points, why } = likelihood({ ...s, right: Math.min(s.right, s.marked), verdict: 'fail' })
        expect(points).toBeLessThan(LIKELY_FROM)
        expect(why.at(-1)).toEqual({ kind: 'failed' })
      }),
      { seed: 9 },
    )
    expect(points({ unwanted: 2 })).toBeLessThan(points({ unwanted: 0 }))
  })

  it('doubts a failed sender always, and an unverified one where senders can be verified at all', () => {
    expect(VERDICTS.map(v => [v, isDoubted(v, true), isDoubted(v, false)])).toEqual([
      ['pass', false, false],
      ['fail', true, true],
      ['none', true, false],
      ['temperror', true, false],
    ])
  })

  it('puts what was asked for first, whatever else is known: a person waits', () => {
    fc.assert(
      fc.property(
        fc.record({
          verdict: fc.constantFrom('pass' as const, 'none' as const),
          delivered: fc.nat(90),
          stopped: fc.nat(90),
          wanted: fc.nat(9),
          unwanted: fc.nat(9),
          opened: fc.nat(9),
          marked: fc.nat(9),
          right: fc.nat(9),
        }),
        (signs) => {
          const other = likelihood({ asked: false, ...signs })
          expect(likelihood({ asked: true, ...signs }).points).toBe(1000)
          expect(other.points).toBeLessThan(1000)
          expect(other.points).toBeGreaterThanOrEqual(0)
        },
      ),
      { seed: 5 },
    )
  })
})

describe('the words of a reason', () => {
  it.each([
    [{ kind: 'asked' }, 'the recipient requests it'],
    [{ kind: 'senderWanted', wanted: 1, of: 1 }, '1 of 1 marked message from this sender was wanted'],
    [{ kind: 'senderWanted', wanted: 4, of: 5 }, '4 of 5 marked messages from this sender were wanted'],
    [{ kind: 'neverStopped', delivered: 58 }, 'sender verified; 58 delivered before, none stopped'],
    [{ kind: 'opened', opened: 1 }, '1 message from this sender was opened'],
    [{ kind: 'opened', opened: 7 }, '7 messages from this sender were opened'],
    [{ kind: 'oftenWrong', right: 3, of: 9 }, 'the list or rule was correct for 3 of 9 marked messages'],
    [{ kind: 'senderUnwanted', unwanted: 1, of: 1 }, '1 of 1 marked message from this sender was unwanted'],
    [{ kind: 'senderUnwanted', unwanted: 6, of: 7 }, '6 of 7 marked messages from this sender were unwanted'],
    [{ kind: 'firstContact' }, 'first message from this sender'],
    [{ kind: 'notVerified' }, 'sender not verified'],
    [{ kind: 'failed' }, 'authentication failed: the From may be forged'],
  ] as const)('%o reads “%s”', (why, words) => {
    expect(whyWords(why)).toBe(words)
  })

  it('are there for whatever is likely: nobody is told “likely a mistake” without why', () => {
    const count = fc.nat(20)
    const verdict = fc.constantFrom(...VERDICTS)
    const signs = fc.record({
      asked: fc.boolean(),
      verdict,
      delivered: count,
      stopped: count,
      wanted: count,
      unwanted: count,
      opened: count,
      marked: count,
      right: count,
    })
    fc.assert(
      fc.property(signs, (s) => {
        const { points, why } = likelihood({ ...s, right: Math.min(s.right, s.marked) })
        if (points >= LIKELY_FROM) expect(why.length).toBeGreaterThan(0)
        expect(new Set(why.map(w => w.kind)).size).toBe(why.length)
        for (const one of why) expect(whyWords(one)).not.toMatch(/undefined|NaN/)
      }),
      { seed: 6 },
    )
  })

  it('speak more for a mistake the more was wanted, and never less', () => {
    fc.assert(
      fc.property(fc.nat(20), fc.nat(20), (wanted, unwanted) => {
        const [less, more] = [wanted, wanted + 1].map(w => points({ wanted: w, unwanted, delivered: 2, verdict: 'pass' }))
        expect(more).toBeGreaterThanOrEqual(less!)
      }),
      { seed: 7 },
    )
  })
})

describe('subjects', () => {
  it('are one without numbers, dates and answers: a campaign is one group', () => {
    const key = subjectKey('Invoice 7718 of 3 November')
    for (const other of ['invoice 7719, of 12 Dec', 'Re: INVOICE 1/2 of', 'Fwd: AW: Invoice №77 of 2026-11-03', 'Invoice INV7718 of'])
      expect(subjectKey(other)).toBe(key)
    expect(subjectKey('Invoice of the harbour')).not.toBe(key)
  })

  it('stay apart where nothing but numbers is left, and cost no more than their length', () => {
    expect(subjectKey('12345')).toBe('12345')
    expect(subjectKey('12345')).not.toBe(subjectKey('67890'))
    expect(subjectKey('')).toBe('')
    expect(subjectKey(`${'re: '.repeat(200_000)}x`).length).toBeLessThanOrEqual(200)
  })
})

describe('judge these five', () => {
  it('asks once a sender, the one with most mail first, and not of whom somebody judged: five answers say most', () => {
    const copies = [
      ...Array.from({ length: 9 }, (_, i) => ({ id: i + 1, sender: 'much', marked: false })),
      ...Array.from({ length: 12 }, (_, i) => ({ id: i + 20, sender: 'known', marked: i === 11 })),
      { id: 50, sender: 'one', marked: false },
      { id: 51, sender: 'all judged', marked: true },
    ]
    expect(mostInformative(copies)).toEqual([1, 50, 20])
    expect(mostInformative(copies, 1)).toEqual([1])
    expect(mostInformative([])).toEqual([])
  })
})

describe('whatever was judged', () => {
  const copies = fc
    .array(fc.record({ sender: fc.constantFrom('a', 'b', 'c', 'd', 'e', 'f', 'g'), marked: fc.boolean() }), { maxLength: 40 })
    .map(all => all.map((c, id) => ({ ...c, id })))

  it('the five are unjudged, each of another sender, and none is left out whose answer would say more', () => {
    fc.assert(
      fc.property(copies, fc.integer({ min: 1, max: 5 }), (all, most) => {
        const chosen = mostInformative(all, most).map(id => all.find(c => c.id === id)!)
        expect(chosen.every(c => !c.marked)).toBe(true)
        expect(new Set(chosen.map(c => c.sender)).size).toBe(chosen.length)
        const askable = new Set(all.filter(c => !c.marked).map(c => c.sender))
        expect(chosen).toHaveLength(Math.min(most, askable.size))
        // Of whom somebody marked comes after whom nobody did.
        const heard = (sender: string) => all.some(c => c.sender === sender && c.marked)
        const order = chosen.map(c => Number(heard(c.sender)))
        expect(order).toEqual([...order].sort())
        const unheard = [...askable].filter(s => !heard(s)).length
        expect(order.filter(n => n === 0)).toHaveLength(Math.min(most, unheard))
      }),
      { seed: 8 },
    )
  })
})
