import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { isUsualTime } from '#core'
import { readCursor, writtenCursor } from '../../../server/platform/cursor'
import { Problem } from '../../../server/platform/problem'

describe('the cursor of a page', () => {
  it('is read as it was given out: the next page begins where this one ended', () => {
    const number = fc.maxSafeInteger()
    const both = fc.property(number, number, (at, id) => {
      expect(readCursor(writtenCursor([at, id]))).toEqual([at, id])
    })
    fc.assert(both, { seed: 9 })
    expect(writtenCursor([1, 2])).toMatch(/^[\w-]+$/)
  })

  it.each([
    ['nothing', ''],
    ['what is no JSON', Buffer.from('[1,').toString('base64url')],
    ['one number', Buffer.from('[1]').toString('base64url')],
    ['words', Buffer.from('["a","b"]').toString('base64url')],
    ['a number beyond what is exact', Buffer.from('[9007199254740993,1]').toString('base64url')],
    ['an object', Buffer.from('{"0":1,"1":2}').toString('base64url')],
    ['null', Buffer.from('null').toString('base64url')],
    ['what somebody wrote', '%%%'],
  ])('is refused where it is %s, with what to do', (_, text) => {
    const read = () => readCursor(text)
    expect(read).toThrow(Problem)
    expect(read).toThrow('Start again with the first page')
  })

  it('is refused where nothing can stand there: a time that is none', () => {
    expect(() => readCursor(writtenCursor([8.7e15, 1]), isUsualTime)).toThrow(Problem)
    expect(readCursor(writtenCursor([Date.parse('2026-11-27'), 1]), isUsualTime)[1]).toBe(1)
  })
})
