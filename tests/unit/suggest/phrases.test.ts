// Phrases that are offered: what a reader sees the same in several messages, and nobody else writes.
import { describe, expect, it } from 'vitest'
import { decide, type Content, type Message } from '#core'
import { apply, completed } from '#core/change'
import { coveringPhrases, draftChanges, isFlood, rareWords, sharedPhrases, senderScopesOf, type SharedPhrase } from '#core/suggest'
import { Random } from '../../../demo/random'
import { letter, NOW, OURS, policy } from '../../support/build'

const WORDS = 'boat harbour meeting weather crew rope sail anchor minutes report plan lunch budget tide letter garden window paper'.split(' ')
const LETTERS = 'abcdefghijklmnopqrstuvwxyz'

class Flood {
  private readonly random: Random

  constructor(seed: number) {
    this.random = new Random(seed)
  }

  word(): string {
    return Array.from({ length: this.random.between(5, 9) }, () => this.random.pick([...LETTERS])).join('')
  }

  prose(words: number): string {
    return Array.from({ length: words }, () => this.random.pick(WORDS)).join(' ')
  }

  /** Some of its letters are digits, or look-alikes from other scripts (UTS #39, confusables). */
  disguised(text: string, share: number): string {
    const likes: Record<string, string> = { a: 'а', e: '3', i: '1', o: '0', s: '5', c: 'с', p: 'р' }
    return [...text].map(c => (likes[c] && this.random.chance(share) ? likes[c] : c)).join('')
  }

  /** One message: an address of its own, and text around what is sold. */
  async message(sells: string, { share = 0, padding = 40 } = {}): Promise<Message> {
    const noise = () => Array.from({ length: padding }, () => (this.random.chance(0.5) ? this.word() : this.random.pick(WORDS))).join(' ')
    const from = `${this.word()}@${this.word()}.test`
    return letter({ from, subject: this.word(), text: `${noise()}\n\n${this.disguised(sells, share)}\n\n${noise()}` })
  }

  async messages(count: number, ...how: Parameters<Flood['message']>): Promise<Message[]> {
    return Promise.all(Array.from({ length: count }, () => this.message(...how)))
  }

  async honest(count: number): Promise<Message[]> {
    return Promise.all(Array.from({ length: count }, (_, i) =>
      letter({ from: `friend${i % 7}@sailors.example`, subject: `Minutes ${i}`, text: `Dear crew, ${this.prose(60)}. Please send the report.` })))
  }
}

const contents = (messages: readonly Message[]): Content[] => messages.map(m => m.content)
const SELLS = 'Collect your guaranteed lottery inheritance without delay'

/** How many of these messages a rule made of the phrase stops. */
async function stopped({ text, obfuscated }: SharedPhrase, messages: readonly Message[]): Promise<number> {
  const draft = { senders: [], phrases: [text], obfuscated, then: { to: 'spam' as const }, owner: 'organisation' }
  const made = apply(policy({}), completed(draftChanges(policy({}), draft, () => 'l'), { id: () => 'r', now: NOW, by: null }))
  if ('problems' in made) throw new Error(JSON.stringify(made.problems))
  return messages.filter(m => decide(m, `oskar@${OURS}`, made.policy, { now: NOW }).lane === 'spam').length
}

describe('a flood from changing senders', () => {
  it.each([
    ['as it is', { share: 0, padding: 30 }],
    ['in much other text', { share: 0, padding: 600 }],
    ['with letters replaced', { share: 0.5, padding: 40 }],
  ])('%s: its words stop the next messages too, and no honest one', async (_, how) => {
    for (const seed of [1, 2, 3]) {
      const flood = new Flood(seed)
      const [chosen, next] = [await flood.messages(20, SELLS, how), await flood.messages(20, SELLS, how)]
      const honest = await flood.honest(80)
      expect(isFlood(senderScopesOf(contents(chosen)), chosen.length)).toBe(true)
      const [first] = sharedPhrases(contents(chosen), { against: contents(honest) })
      expect(first, `seed ${seed}`).toBeDefined()
      expect(first!.of).toBeGreaterThanOrEqual(18)
      expect(await stopped(first!, next)).toBeGreaterThanOrEqual(18)
      expect(await stopped(first!, honest)).toBe(0)
    }
  })
  it('is none where one domain, one list or few addresses send it: then the sender is blocked', async () => {
    const of = async (count: number, from: (i: number) => string) =>
      senderScopesOf(contents(await Promise.all(Array.from({ length: count }, (_, i) => letter({ from: from(i) })))))
    expect(isFlood(await of(20, i => `a${i}@one.test`), 20)).toBe(false)
    expect(isFlood(await of(20, i => `a@d${i % 4}.test`), 20)).toBe(false)
    expect(isFlood(await of(3, i => `a@d${i}.test`), 3)).toBe(false)
    expect(isFlood(await of(20, i => `a@d${i % 12}.test`), 20)).toBe(true)
  })
})

describe('campaigns that were missed', () => {
  it('are each covered by a phrase of their own, thirty at once, and in any spelling', async () => {
    const flood = new Flood(9)
    const [one, two, three] = [
      await flood.messages(12, 'Your crypto wallet was suspended'),
      await flood.messages(10, 'Renew the antivirus licence tonight', { share: 0.5, padding: 30 }),
      await flood.messages(8, 'Cheap diploma from a real college'),
    ]
    const honest = await flood.honest(60)
    const phrases = coveringPhrases(contents([...one, ...two, ...three]), { against: contents(honest) })
    for (const campaign of [one, two, three]) {
      const best = Math.max(...(await Promise.all(phrases.map(p => stopped(p, campaign)))))
      expect(best).toBeGreaterThanOrEqual(campaign.length - 1)
    }
    for (const phrase of phrases) expect(await stopped(phrase, honest)).toBe(0)
    expect(coveringPhrases(contents(one.slice(0, 2)), { against: [] })).toEqual([])
  })
  it('do not lose their phrase to what everybody writes: of two that all have, the rarer in wanted mail is taken', async () => {
    const flood = new Flood(10)
    const missed = contents(await flood.messages(6, 'Please send the report of your shipment insurance'))
    const [phrase] = coveringPhrases(missed, { against: contents(await flood.honest(40)) })
    expect(phrase!.text).toContain('shipment insurance')
  })
})

describe('phrases that are offered', () => {
  const share = (a: string, b: string) => a.split(' ').some(word => word.length > 3 && b.split(' ').includes(word))

  it('do not overlap: three ways to say the same are one choice', async () => {
    const flood = new Flood(4)
    const found = sharedPhrases(contents(await flood.messages(5, SELLS)), { against: contents(await flood.honest(20)) })
    expect(found.length).toBeGreaterThan(1)
    for (const a of found) for (const b of found) if (a !== b) expect(share(a.text, b.text), `${a.text} / ${b.text}`).toBe(false)
  })
  it('hold no number of an order or an invoice: nobody else will ever have it', async () => {
    const one = await letter({ subject: 'Order 7718-B shipped', text: 'Invoice INV20261201 for parcel 00340434161094 of Ann. Ref a1b2c3d4' })
    for (const { text } of sharedPhrases([one.content], { against: [] }, 20)) expect(text).not.toMatch(/\d/)
  })
  it('hold one that catches more than the example, where there is such a one', async () => {
    const one = await letter({ subject: 'Quarterly tax refund', text: 'Dear Zebulon, your xylophone receipt is ready. Claim the tax refund here.' })
    const alike = await letter({ subject: 'Hello', text: 'You may claim the tax refund of this year.' })
    const flood = new Flood(5)
    const against = contents(await flood.honest(30))
    const found = sharedPhrases([one.content], { against, rest: [alike.content] })
    const wider = await Promise.all(found.map(p => stopped(p, [alike])))
    expect(Math.max(...wider)).toBe(1)
    // By single rare words it is found among all the mail.
    expect(rareWords([one.content], { against }, 60)).toEqual(expect.arrayContaining(['tax', 'refund']))
  })
  it('are sought through look-alike letters where one word mixes scripts', async () => {
    const one = await letter({ subject: 'x', text: 'Free раypаl voucher' })
    const found = sharedPhrases([one.content], { against: [] })
    expect(found.find(p => /pay|раy/u.test(p.text))!.obfuscated).toBe(true)
    expect(await stopped(found.find(p => p.obfuscated)!, [await letter({ text: 'Free paypal voucher' })])).toBe(1)
  })
  it('are found in a text of a million words, of which the beginning is read, and in two hundred messages', async () => {
    const flood = new Flood(6)
    const endless = await letter({ text: flood.prose(300_000) })
    sharedPhrases([endless.content], { against: [] })
    const many = contents(await flood.messages(200, SELLS, { share: 0.3, padding: 200 }))
    expect(coveringPhrases(many, { against: [] }).length).toBeGreaterThan(0)
  })
})
