import { setTimeout as sleep } from 'node:timers/promises'
import { describe, expect, it } from 'vitest'
import { Slots } from '../../../server/platform/slots'

describe('slots: one who asks for everything at once would leave nothing for the others', () => {
  it('does so many at a time for each, in order, and the others do not wait', async () => {
    const slots = new Slots(2)
    const running = { a: 0, b: 0 }
    let most = 0
    const done: string[] = []
    const work = (who: 'a' | 'b', n: number) =>
      slots.take(who, async () => {
        most = Math.max(most, ++running[who])
        await sleep(3)
        running[who]--
        done.push(`${who}${n}`)
      })
    await Promise.all([...Array.from({ length: 8 }, (_, n) => work('a', n)), work('b', 0)])
    expect([most, running]).toEqual([2, { a: 0, b: 0 }])
    expect(done.filter(d => d.startsWith('a'))).toEqual(Array.from({ length: 8 }, (_, n) => `a${n}`))
    expect(done.indexOf('b0')).toBeLessThan(3)
  })
  it('a failure frees its slot, and is told to whoever it belongs to', async () => {
    const slots = new Slots(1)
    const results = await Promise.allSettled([
      slots.take('a', () => Promise.reject(new Error('no'))),
      slots.take('a', () => {
        throw new Error('at once')
      }),
      slots.take('a', () => 'yes'),
    ])
    expect(results.map(r => (r.status === 'fulfilled' ? r.value : (r.reason as Error).message))).toEqual([
      'no',
      'at once',
      'yes',
    ])
    expect(await slots.take('a', () => 'again')).toBe('again')
  })
})
