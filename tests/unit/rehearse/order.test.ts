// What an order alone would move is shown: nobody puts it in force thinking that it moves nothing.
import { expect, it } from 'vitest'
import { decide, IndexedPolicy, type Message, type Policy, type Rule } from '#core'
import { pairOf, rehearseCopy } from '#core/rehearse'
import { differences } from '#core/change'
import { letter, NOW, OURS, policy } from '../../support/build'

const TO = `oskar@${OURS}`
const hold = (id: string, quarantine: string): Rule => ({
  id,
  name: id,
  owner: 'organisation',
  state: 'acting',
  when: { phrases: ['junk rig'] },
  except: [],
  claims: [{ stop: { to: 'quarantine', quarantine } }],
})

function rehearsed(message: Message, before: Policy, after: Policy) {
  const [was, is] = [before, after].map(p => decide(message, TO, IndexedPolicy.build(p), { now: NOW }))
  const found = rehearseCopy(message, TO, pairOf(IndexedPolicy.build(before), differences(before, after)), NOW)
  return { was, is, found }
}

it('rules that only change places move what both of them hold', async () => {
  const base = policy({ rules: [hold('one', 'general'), hold('two', 'security')] })
  const { was, is, found } = rehearsed(await letter({ subject: 'a junk rig' }), base, { ...base, rules: [...base.rules].reverse() })
  expect([was!.quarantine, is!.quarantine]).toEqual(['general', 'security'])
  expect(found?.after.quarantine).toBe('security')
})
