import { Random } from '../demo'
import { readPolicy, type Condition, type Policy, type Rule } from '#core'
import { TRUST } from '../demo/world'

const SYLLABLES = 'an ber cor dal el fin gra hal is jor kel lum mar nor ost pel quin ros sul tar ul vor wen yar zen'.split(' ')

function word(random: Random): string {
  let out = ''
  for (let i = random.between(2, 4); i > 0; i--) out += random.pick(SYLLABLES)
  return out
}

/** Phrases of one to three invented words. */
export function phrases(random: Random, count: number): string[] {
  const out = new Set<string>()
  while (out.size < count) out.add(Array.from({ length: random.between(1, 3) }, () => word(random)).join(' '))
  return [...out]
}

/** A policy of that size: entries over ten lists; rules that each look for their share of the phrases. */
export function policyOf(size: { entries: number, rules: number, phrases: number }): Policy {
  const random = new Random(size.entries + size.rules * 7 + size.phrases * 13)
  const all = phrases(random, size.phrases)
  const share = Math.max(1, Math.floor(size.phrases / Math.max(1, size.rules)))
  const rules: Rule[] = Array.from({ length: size.rules }, (_, i) => {
    const own = all.slice((i * share) % Math.max(1, all.length), ((i * share) % Math.max(1, all.length)) + share)
    const when: Condition = own.length ? { phrases: own } : { sender: { kind: 'address', value: `nobody${i}@elsewhere.example` } }
    return {
      id: `r${i}`,
      name: `Rule ${i}`,
      owner: i % 3 ? 'organisation' : 'department:accounts',
      state: 'enabled',
      when,
      except: i % 4 ? [] : [{ sender: { kind: 'domain', value: `partner${i}.example` } }],
      claims: [{ stop: { to: i % 2 ? 'spam' : 'bin' } }],
    }
  })
  const lists = Array.from({ length: 10 }, (_, l) => ({
    id: `l${l}`,
    name: `List ${l}`,
    owner: 'organisation',
    usualSide: 'block' as const,
    enabled: true,
    entries: Array.from({ length: Math.floor(size.entries / 10) }, (_, i) =>
      i % 2
        ? { id: `e${l}-${i}`, kind: 'address' as const, value: `${word(random)}${i}@${word(random)}.test` }
        : { id: `e${l}-${i}`, kind: i % 4 ? ('domain' as const) : ('domainAndSubdomains' as const), value: `${word(random)}${i}.test` },
    ),
  }))
  const policy = {
    format: 'sober-gate-policy',
    formatVersion: 2,
    version: 1,
    trust: TRUST,
    departments: [{ id: 'accounts', name: 'Accounts' }],
    people: [{ id: 'oskar', name: 'Oskar', addresses: ['oskar@saltmere-harbour.example'], departments: ['accounts'] }],
    quarantines: [{ id: 'general', name: 'General', general: true }],
    lists,
    phraseSets: [],
    rules,
    assignments: lists.map((l, i) => ({
      id: `b${i}`,
      list: l.id,
      owner: 'organisation',
      side: 'block',
      state: 'enabled',
      stop: { to: 'spam' },
    })),
  }
  // The check of a hundred thousand entries is not what is measured.
  if (size.entries > 20_000) return policy as unknown as Policy
  const read = readPolicy(policy)
  if ('problems' in read) throw new Error(JSON.stringify(read.problems.slice(0, 3)))
  return read.policy
}
