// Who makes a rule for outbound mail is not left with an action that such mail cannot have, nor with one that never acts, unsaid.
import { describe, expect, it } from 'vitest'
import { checkPolicy, STOPS, type Policy } from '#core'
import { isMainOf, mainFor } from '../../../app/composables/ruleSheet'
import { NOW, policy } from '../../support/build'

describe('the action of a rule whose direction changes', () => {
  it.each([
    ['spam', 'inbound', 'outbound', 'quarantine'],
    ['quarantine', 'outbound', 'inbound', 'spam'],
    ['bin', 'inbound', 'outbound', 'quarantine'],
    ['refuse', 'inbound', 'outbound', 'refuse'],
    ['none', 'inbound', 'outbound', 'none'],
    ['bin', 'inbound', 'internal', 'bin'],
    ['filed', 'internal', 'outbound', 'quarantine'],
  ] as const)('%s, from %s to %s: %s', (main, from, to, becomes) => {
    expect(mainFor(main, { from, to })).toBe(becomes)
    expect(isMainOf(to, becomes)).toBe(true)
  })
  it('outbound is none that ends where such mail never is', () => {
    expect(STOPS.filter(s => isMainOf('outbound', s))).toEqual(['quarantine', 'refuse'])
  })
})

describe('mail of a direction in which none is accepted', () => {
  const clause = (direction?: string) => ({
    id: 'r', name: 'R', owner: 'organisation', state: 'enabled', when: { phrases: ['x1'] }, except: [], claims: [{ stop: { to: 'spam' } }],
    ...(direction ? { direction } : {}),
  })
  const found = (p: Policy, accepts?: { outbound: boolean, internal: boolean }) =>
    checkPolicy(p, { now: NOW, accepts }).filter(f => f.kind === 'no such mail accepted').map(f => f.evidence)
  const withRule = (direction?: string, over: object = {}) => policy({ rules: [{ ...clause(direction), ...over }] as never })

  it('is a finding of the rules for it, and of those alone', () => {
    const none = { outbound: false, internal: false }
    expect(found(withRule('outbound'), none)).toEqual([expect.stringContaining('outbound mail, and none is accepted')])
    expect(found(withRule('internal'), none)).toEqual([expect.stringContaining('no own network is configured')])
    expect(found(withRule('internal'), { outbound: false, internal: true })).toEqual([])
    expect(found(withRule(), none)).toEqual([])
    expect(found(withRule('outbound', { state: 'disabled' }), none)).toEqual([])
    // Who checks a policy without an installation is told nothing of its kind.
    expect(found(withRule('outbound'))).toEqual([])
  })
  it('is a finding of a list’s assignment, whose finding names the list', () => {
    const p = policy({
      lists: [{ id: 'l', name: 'Leaks', owner: 'organisation', usualSide: 'block', enabled: true, entries: [{ id: 'e', kind: 'domain', value: 'x.test' }] }],
      assignments: [{ id: 'a', list: 'l', owner: 'organisation', side: 'block', state: 'enabled', direction: 'outbound', stop: { to: 'refuse' } }],
    } as never)
    expect(checkPolicy(p, { now: NOW, accepts: { outbound: false, internal: false } })).toMatchObject([
      { kind: 'no such mail accepted', clause: { kind: 'list', name: 'Leaks' }, about: { assignment: 'a' } },
    ])
  })
})
