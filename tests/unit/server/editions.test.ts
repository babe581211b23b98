import { describe, expect, it } from 'vitest'
import { buildEntryTable, IndexedPolicy } from '#core'
import { Editions, type Edition } from '../../../server/workers/editions'
import { policy } from '../../support/build'

const edition = (number: number): Edition => ({
  number,
  policy: { ...policy(), version: number },
  table: buildEntryTable([]).data,
})

describe('editions on a thread: a message would be decided by another version than it was asked for', () => {
  it('before and after a change are both held, neither is built anew', () => {
    const editions = new Editions(2)
    const [before, after] = [editions.take(1, edition(1)), editions.take(2, edition(2))]
    expect(before).toBeInstanceOf(IndexedPolicy)
    for (let i = 0; i < 5; i++) {
      expect(editions.take(1, undefined)).toBe(before)
      expect(editions.take(2, undefined)).toBe(after)
    }
    expect([before!.compiled.policy.version, after!.compiled.policy.version]).toEqual([1, 2])
  })
  it('the one that was not asked for longest goes, and is asked for again by its number', () => {
    const editions = new Editions(2)
    editions.take(1, edition(1))
    editions.take(2, edition(2))
    editions.take(1, undefined)
    editions.take(3, edition(3))
    expect([1, 2, 3].map(n => editions.take(n, undefined)?.compiled.policy.version)).toEqual([1, undefined, 3])
    expect(editions.size).toBe(2)
  })
  it('what it does not hold it does not make up', () => {
    expect(new Editions(2).take(7, undefined)).toBeNull()
  })
})
