import { readFileSync } from 'node:fs'
import { Ajv2019 } from 'ajv/dist/2019'
import { describe, expect, it } from 'vitest'
import { readPolicy } from '#core'
import { DEMO_CLAUSES, DEPARTMENTS, OWN_DOMAIN, PEOPLE, personId, TRUST } from '../../../demo'
import { currentChanges, currentFile, publishedChanges, publishedSchema } from '../../../scripts/policy-schema'
import { differences, readChanges } from '#core/change'
import { policy } from '../../support/build'

// ajv is the outside reader of the published schema; formats are checked by the door itself.
const ajv = new Ajv2019({ strict: false, validateFormats: false })
const valid = ajv.compile(
  JSON.parse(readFileSync(new URL('../../../docs/policy.schema.json', import.meta.url), 'utf8')),
)
const demo = {
  format: 'sober-gate-policy',
  formatVersion: 3,
  trust: TRUST,
  departments: DEPARTMENTS,
  people: PEOPLE.map(p => ({
    id: personId(p),
    name: p.name,
    addresses: [`${p.mailboxes[0]}@${OWN_DOMAIN}`],
    departments: p.department ? [p.department] : [],
  })),
  ...DEMO_CLAUSES,
}

describe('the published schema: somebody who writes a policy by it would be refused, or the other way round', () => {
  it('is the one by which policies are checked', () =>
    expect(currentFile()).toEqual(JSON.parse(JSON.stringify(publishedSchema()))))
  it('accepts what we write', () => {
    expect([valid(demo), valid.errors]).toEqual([true, null])
    expect('policy' in readPolicy(demo)).toBe(true)
    expect(valid(policy())).toBe(true)
  })
  it.each([
    ['an unknown key', { ...demo, extra: 1 }],
    ['another format', { ...demo, format: 'x' }],
    ['all of nothing', { ...demo, rules: [{ ...DEMO_CLAUSES.rules[0], when: { all: [] } }] }],
    [
      'two things in one condition',
      { ...demo, rules: [{ ...DEMO_CLAUSES.rules[0], when: { every: true, phrases: ['x'] } }] },
    ],
    ['an unknown lane', { ...demo, rules: [{ ...DEMO_CLAUSES.rules[0], claims: [{ stop: { to: 'attic' } }] }] }],
  ])('refuses %s, as the door does', (_, wrong) => {
    expect(valid(wrong)).toBe(false)
    expect('problems' in readPolicy(wrong)).toBe(true)
  })
})

describe('the published schema of changes', () => {
  const validChanges = new Ajv2019({ strict: false, validateFormats: false }).compile(currentChanges())
  const empty = { quarantines: [], lists: [], assignments: [], phraseSets: [], rules: [] }
  const read = readPolicy(demo) as { policy: ReturnType<typeof policy> }
  it('is the one by which changes are checked', () =>
    expect(currentChanges()).toEqual(JSON.parse(JSON.stringify(publishedChanges()))))
  it('accepts every change by which the demo’s policy is made and unmade', () => {
    for (const changes of [differences(empty, read.policy), differences(read.policy, empty)]) {
      const written: unknown = JSON.parse(JSON.stringify(changes))
      expect([validChanges(written), validChanges.errors]).toEqual([true, null])
      expect('changes' in readChanges(written)).toBe(true)
    }
  })
  it.each([
    ['what is neither put, removed nor ordered', [{ paint: 'rule' }]],
    ['a rule without a name', [{ type: 'put', kind: 'rule', value: { owner: 'organisation', state: 'enabled', when: { every: true } } }]],
    ['what cannot be put', [{ put: 'planet', planet: {} }]],
    ['entries of an unknown kind', [{ type: 'put', kind: 'entries', list: 'l', entries: [{ kind: 'planet', value: 'x' }] }]],
    ['an id and a thing at once', [{ type: 'remove', kind: 'rule', id: 'r', rule: {} }]],
  ])('refuses %s, as the door does', (_, wrong) => {
    expect(validChanges(wrong)).toBe(false)
    expect('problems' in readChanges(wrong)).toBe(true)
  })
})
