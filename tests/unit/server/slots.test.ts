import { EventEmitter } from 'node:events'
import type { ServerResponse } from 'node:http'
import { setTimeout as sleep } from 'node:timers/promises'
import { describe, expect, it } from 'vitest'
import { CallerLeft, whileCallerStays } from '../../../server/platform/caller'
import { Slots } from '../../../server/platform/slots'
import { Turns } from '../../../server/platform/turns'

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

describe('who waits and leaves', () => {
  const response = () => Object.assign(new EventEmitter(), { destroyed: false }) as unknown as ServerResponse & EventEmitter
  const taken = (slots: Slots) => new Promise<() => void>((begun) => {
    void slots.take('a', () => new Promise<void>(end => begun(end)))
  })

  it('leaves the line: what came after it has its turn, and its own work is never done', async () => {
    const slots = new Slots(1)
    const end = await taken(slots)
    const client = response()
    let done = 0
    const left = whileCallerStays(client, () => slots.take('a', () => ++done))
    const next = slots.take('a', () => 'next')
    client.emit('close')
    await expect(left).rejects.toBeInstanceOf(CallerLeft)
    end()
    expect([await next, done]).toEqual(['next', 0])
  })
  it('before it waited is not let in at all', async () => {
    const client = response()
    client.destroyed = true
    await expect(whileCallerStays(client, () => new Slots(1).take('a', () => 1))).rejects.toBeInstanceOf(CallerLeft)
  })
  it('has left turns in which others wait, and they go on', async () => {
    const turns = new Turns()
    let end = () => {}
    const first = turns.take('a', () => new Promise<void>(done => (end = done)))
    const client = response()
    const left = whileCallerStays(client, () => turns.take('b', () => Promise.resolve('b')))
    const next = turns.take('c', () => Promise.resolve('c'))
    client.emit('close')
    await expect(left).rejects.toBeInstanceOf(CallerLeft)
    end()
    expect([await first, await next]).toEqual([undefined, 'c'])
  })
  it('too many who wait are refused, and told so', async () => {
    const slots = new Slots(1)
    const end = await taken(slots)
    const many = Array.from({ length: 101 }, () => slots.take('a', () => 'done'))
    await expect(many.at(-1)).rejects.toMatchObject({ status: 429 })
    end()
    expect(await Promise.all(many.slice(0, 100))).toEqual(Array(100).fill('done'))
  })
  it('work that never ends gives its slot back by the clock', async () => {
    const slots = new Slots(1, 20)
    void slots.take('a', () => new Promise<void>(() => undefined))
    expect(await slots.take('a', () => 'served')).toBe('served')
  })
})
