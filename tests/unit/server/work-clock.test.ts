// On a busy machine nobody’s message is read less of because others work; what takes for ever is given up all the same.
import { setTimeout as sleep } from 'node:timers/promises'
import { describe, expect, it } from 'vitest'
import { begin, newStart, WorkClock } from '../../../server/platform/work-clock'

function work(seconds: number) {
  const { user } = process.cpuUsage()
  while (process.cpuUsage().user - user < seconds * 1e6);
}

describe('the clock of a thread', () => {
  it('does not run before the work begins', async () => {
    const clock = new WorkClock(newStart(), 0.01)
    expect(clock.isOver()).toBe(false)
    await sleep(200)
    expect(clock.isOver()).toBe(false)
  })

  it('counts what was worked: who worked longer than is allowed is given up', () => {
    const start = newStart()
    const clock = new WorkClock(start, 0.2)
    begin(start)
    expect(clock.isOver()).toBe(false)
    work(0.4)
    expect(clock.isOver()).toBe(true)
  })

  it.runIf(process.platform === 'linux')('does not count what others worked meanwhile, but waits ten times as long at most', async () => {
    const start = newStart()
    const clock = new WorkClock(start, 0.3)
    begin(start)
    expect(clock.isOver()).toBe(false)
    await sleep(900)
    expect(clock.isOver()).toBe(false)
    await sleep(2200)
    expect(clock.isOver()).toBe(true)
  })

  it('counts the clock on the wall where the system does not tell of threads', async () => {
    const start = newStart()
    const clock = new WorkClock(start, 0.1)
    Atomics.store(start, 0, -1)
    expect(clock.isOver()).toBe(false)
    await sleep(150)
    expect(clock.isOver()).toBe(true)
  })
})
