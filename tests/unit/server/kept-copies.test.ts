import { describe, expect, it } from 'vitest'
import type { Content, Message } from '#core'
import { KeptCopies } from '../../../server/impact/kept-copies'

/** What a copy of a message with so many characters takes besides them. */
const COPY = 500
const message = (content: Content) => ({ content }) as Message
const content = () => ({ segments: [] }) as unknown as Content

/** Keeps a copy of a message. */
function put(kept: KeptCopies, id: number, { messageId = id, stamp = '1', length = 1000 } = {}) {
  const known = kept.content({ messageId, stamp }) ?? { content: content(), length }
  kept.put(id, { messageId, recipient: 'r', message: message(known.content) }, { messageId, stamp, known })
}
const has = (kept: KeptCopies, id: number, stamp = '1', messageId = id) => kept.take(id, { messageId, stamp }) !== null

describe('mail that threads keep', () => {
  it('is bounded: a large archive that is gone through takes no more memory than a small one', () => {
    const kept = new KeptCopies(10_000)
    for (let id = 1; id <= 1000; id++) {
      put(kept, id)
      expect(kept.size).toBeLessThanOrEqual(10_000)
    }
  })
  it('is what a question looked at first: the next key asks for the newest again', () => {
    const kept = new KeptCopies(6 * (1000 + COPY))
    for (let id = 1; id <= 100; id++) put(kept, id)
    expect([has(kept, 1), has(kept, 6), has(kept, 7)]).toEqual([true, true, false])
    kept.begin()
    for (let id = 201; id <= 203; id++) put(kept, id)
    // What the question before looked at made room.
    expect([has(kept, 1), has(kept, 201), has(kept, 203)]).toEqual([false, true, true])
  })
  it('counts the text of a message once, however many of its copies there are, until the last is dropped', () => {
    const kept = new KeptCopies()
    for (let id = 1; id <= 10; id++) put(kept, id, { messageId: 7 })
    expect(kept.size).toBe(1000 + 10 * COPY)
    kept.forget([7])
    expect(kept.size).toBe(0)
  })
  it('is not what was erased, or read anew, since: a figure would count mail that is gone', () => {
    const kept = new KeptCopies()
    put(kept, 1)
    expect(has(kept, 1, '2')).toBe(false)
    expect(kept.size).toBe(0)
    put(kept, 1, { stamp: '1' })
    put(kept, 2, { messageId: 1, stamp: '2' })
    expect([has(kept, 1, '1', 1), has(kept, 2, '2', 1)]).toEqual([false, true])
    expect(kept.size).toBe(1000 + COPY)
  })
  it('is given back: nothing is left of what is forgotten', () => {
    const kept = new KeptCopies()
    for (let id = 1; id <= 50; id++) put(kept, id)
    kept.begin()
    put(kept, 99)
    kept.forget()
    expect([kept.size, has(kept, 1), has(kept, 99)]).toEqual([0, false, false])
  })
})
