// What takes long on the serving thread lets mail and requests in between, and does all of its work all the same.
import { describe, expect, it } from 'vitest'
import { eachInSlices, inSlices, someAtATime } from '../../../server/platform/slices'

const busy = (ms: number) => {
  for (const until = performance.now() + ms; performance.now() < until;);
}
/** How often others had their turn while something was done. */
async function turnsDuring(work: Promise<unknown>): Promise<number> {
  let turns = 0
  let over = false
  const others = () => {
    if (over) return
    turns++
    setImmediate(others)
  }
  setImmediate(others)
  await work
  over = true
  return turns
}

describe('long work on the serving thread', () => {
  it('lets others in every few milliseconds: nobody’s mail waits for somebody’s paste', async () => {
    const done: number[] = []
    const turns = await turnsDuring(eachInSlices(Array.from({ length: 40 }, (_, n) => n), (n) => {
      busy(1)
      done.push(n)
    }))
    expect(done).toEqual(Array.from({ length: 40 }, (_, n) => n))
    // 40 ms of work: with slices of at most five there are eight of them at least.
    expect(turns).toBeGreaterThanOrEqual(8)
  })
  it('answers with what it came to, and fails with what it failed with', async () => {
    expect(await inSlices((function* () {
      yield
      return 'all of it'
    })())).toBe('all of it')
    await expect(eachInSlices([1, 2], (n) => {
      if (n === 2) throw new Error('the second')
    })).rejects.toThrow('the second')
  })
  it('writes all rows, some at a time and in their order: none is lost at a border', async () => {
    for (const length of [0, 1, 249, 250, 251, 1000]) {
      const rows = Array.from({ length }, (_, n) => n)
      const written: number[][] = []
      await someAtATime(rows, async some => written.push(some))
      expect(written.flat()).toEqual(rows)
      expect(written.every(some => some.length > 0 && some.length <= 250)).toBe(true)
    }
  })
})
