import { setTimeout as sleep } from 'node:timers/promises'
import { describe, expect, it } from 'vitest'
import { Turns } from '../../../server/platform/turns'

describe('turns: one who came with twenty large changes would keep everybody waiting', () => {
  it('does one thing at a time, and goes round among those who wait', async () => {
    const turns = new Turns()
    const order: string[] = []
    let at = 0
    const work = (name: string) => async () => {
      expect(++at).toBe(1)
      await sleep(1)
      order.push(name)
      at--
    }
    await Promise.all([
      ...['a1', 'a2', 'a3', 'a4'].map(n => turns.take('a', work(n))),
      turns.take('b', work('b1')),
      turns.take('c', work('c1')),
      turns.take('b', work('b2')),
    ])
    expect(order).toEqual(['a1', 'a2', 'b1', 'c1', 'a3', 'b2', 'a4'])
  })
  it('goes on after a failure, and tells whose it was', async () => {
    const turns = new Turns()
    const results = await Promise.allSettled([
      turns.take('a', () => Promise.reject(new Error('no'))),
      turns.take('a', () => Promise.resolve('yes')),
      turns.take('b', () => {
        throw new Error('at once')
      }),
      turns.take('b', () => Promise.resolve('too')),
    ])
    expect(results.map(r => (r.status === 'fulfilled' ? r.value : (r.reason as Error).message))).toEqual([
      'no',
      'yes',
      'at once',
      'too',
    ])
  })
})
