// What an order alone would move is shown: nobody saves it thinking that it moves nothing.
import { expect, it } from 'vitest'
import { decide, IndexedPolicy, type Rule } from '#core'
import { differences } from '#core/change'
import { pairOf, simulateCopy } from '#core/simulate'
import { letter, NOW, OURS, policy } from '../../support/build'

const TO = `oskar@${OURS}`
const hold = (id: string, quarantine: string): Rule => ({
  id,
  name: id,
  owner: 'organisation',
  state: 'enabled',
  when: { phrases: ['junk rig'] },
  except: [],
  claims: [{ stop: { to: 'quarantine', quarantine } }],
})

it('rules that only change places move what both of them hold', async () => {
  const before = policy({ rules: [hold('one', 'general'), hold('two', 'security')] })
  const after = { ...before, rules: [...before.rules].reverse() }
  const message = await letter({ subject: 'a junk rig' })
  const ends = [before, after].map(p => decide(message, TO, p, { now: NOW }).quarantine)
  expect(ends).toEqual(['general', 'security'])
  const simulated = simulateCopy(message, TO, pairOf(IndexedPolicy.build(before), differences(before, after)), NOW)
  expect(simulated?.after.quarantine).toBe('security')
})
