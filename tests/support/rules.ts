import { readPolicy } from '#core'

/** What is wrong with these rules, in a policy of one list, Partners. */
export function readRules(rules: readonly object[]): unknown[] {
  const read = readPolicy({
    format: 'sober-gate-policy',
    formatVersion: 3,
    version: 1,
    trust: { ownDomains: [], relays: [], ownNetworks: [] },
    departments: [],
    people: [],
    quarantines: [{ id: 'general', name: 'General', general: true }],
    lists: [{ id: 'partners', name: 'Partners', owner: 'organisation', usualSide: 'allow', enabled: true, entries: [] }],
    assignments: [],
    phraseSets: [],
    rules,
  })
  return 'problems' in read ? read.problems : []
}
