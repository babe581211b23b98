import { describe, expect, it } from 'vitest'
import { logLines } from '../../../server/platform/log-lines'

describe('a log that cannot be written: what it tells of would stop', () => {
  it('loses lines, counts them, and says so as soon as there is room', () => {
    let room = true
    const written: string[] = []
    const log = logLines((bytes) => {
      if (!room) throw Object.assign(new Error('no space left on device'), { code: 'ENOSPC' })
      written.push(Buffer.from(bytes).toString())
      return bytes.length
    })
    log.write('one\n')
    room = false
    for (let i = 0; i < 1000; i++) log.write('lost\n')
    room = true
    log.write('two\n')
    log.write('three\n')
    expect(written.map(l => (l.startsWith('{') ? (JSON.parse(l) as { lost: number }).lost : l))).toEqual([
      'one\n',
      1000,
      'two\n',
      'three\n',
    ])
  })
  it('writes the rest of what was taken in part, and whole characters', () => {
    const taken: Buffer[] = []
    const log = logLines((bytes) => {
      const some = bytes.subarray(0, 3)
      taken.push(Buffer.from(some))
      return some.length
    })
    log.write('Zoë möchte 💥 lesen\n')
    expect(Buffer.concat(taken).toString()).toBe('Zoë möchte 💥 lesen\n')
  })
})
