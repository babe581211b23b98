import { makeAddress } from '../address'
import { entryCatches, hasOpenDomain, refersToList, ruleStops, type Entry, type List, type Policy } from '../policy'
import { checkUse } from './use'
import type { CheckContext, Finding, FindingKind } from './types'

// Only what stands among the exceptions is asked for.
const NOBODY = { none: [] }
const SOON = 7 * 24 * 60 * 60 * 1000

/** What is questionable in the entries of the lists, by how the lists are used. */
export function checkLists(policy: Policy, context: CheckContext): Finding[] {
  return policy.lists.flatMap(list => checkList(list, policy, context))
}

function checkList(list: List, policy: Policy, context: CheckContext): Finding[] {
  const out: Finding[] = []
  const add = (kind: FindingKind, entry: Entry, evidence: string, mend: string) => out.push({ kind, clause: { kind: 'list', id: list.id, name: list.name, entry: entry.id }, evidence, mend })
  const bindings = policy.bindings.filter(b => b.list === list.id && b.state !== 'off')
  const asked = policy.rules.some(r => r.state !== 'off' && refersToList({ when: NOBODY, except: r.except }, list.id) && ruleStops(r))
  const domains = new Map(list.entries.filter(e => e.kind === 'domain' || e.kind === 'domain and below').map(e => [`${e.kind} ${e.value}`, e]))
  for (const entry of list.entries) {
    const wider = widerEntry(entry, domains)
    if (wider) add('entry covered by a wider one', entry, `${shown(wider)} on the same list catches it already`, `Take ${shown(entry)} out.`)
    if (entry.kind === 'network' && isWide(entry.value)) add('network wider than /16', entry, `${entry.value} holds more than 65,536 addresses`, 'Name the networks that are really meant.')
    if (entry.expires) {
      const left = Date.parse(entry.expires) - Date.parse(context.now)
      if (left <= 0) add('expired', entry, `it expired on ${entry.expires.slice(0, 10)}`, `Take ${shown(entry)} out, or give it a new date.`)
      else if (left <= SOON && asked) add('exception about to expire', entry, `it expires on ${entry.expires.slice(0, 10)}; then rules that spare this sender no longer do`, 'Give it a later date, or none.')
    }
    const allows = bindings.filter(b => b.side === 'allow')
    for (const binding of allows) {
      const counts = binding.counts ?? (binding.owner.startsWith('person:') ? 'not fail' : 'pass')
      const nameless = entry.kind === 'words' || entry.kind === 'everyone' || (entry.kind === 'pattern' && hasOpenDomain(entry.value))
      if (counts === 'pass' && nameless) add('entry can never count', entry, `${shown(entry)} names no domain that could be verified`, 'Write the address or the domain.')
      else if (counts === 'pass' && !policy.trust.relays.length) add('entry can never count', entry, 'no relay that verifies senders is configured', 'Configure the relay, or let the list count unless authentication fails.')
      else if (counts !== 'pass' && isPublic(entry, policy)) add('counts unverified', entry, `anybody can have a mailbox at ${entry.value.split('@').pop()}, and the list counts without a pass`, 'Name the single address, and let it count only when verified.')
      else if (counts === 'any' && policy.trust.ownDomains.some(d => catchesDomain(entry, d))) add('counts unverified', entry, `${shown(entry)} is one of our own domains, which is what forgers write`, 'It counts only when verified all the same; take it out.')
    }
    checkUse(context, entry.id, text => add('unused for long', entry, text, `Take ${shown(entry)} out.`))
  }
  return out
}

function widerEntry(entry: Entry, domains: ReadonlyMap<string, Entry>): Entry | null {
  const domain = entry.kind === 'address' ? entry.value.slice(entry.value.lastIndexOf('@') + 1) : entry.kind === 'domain' || entry.kind === 'domain and below' ? entry.value : null
  if (domain === null) return null
  const labels = domain.split('.')
  if (entry.kind === 'address' && domains.has(`domain ${domain}`)) return domains.get(`domain ${domain}`)!
  for (let i = entry.kind === 'domain and below' ? 1 : 0; i < labels.length; i++) {
    const wider = domains.get(`domain and below ${labels.slice(i).join('.')}`)
    if (wider && wider !== entry) return wider
  }
  return null
}

function isWide(network: string): boolean {
  const [address, length] = network.split('/') as [string, string]
  return Number(length) < (address.includes(':') ? 112 : 16)
}

function isPublic(entry: Entry, { trust }: Policy): boolean {
  return (entry.kind === 'domain' || entry.kind === 'domain and below') && (trust.publicProviders ?? []).includes(entry.value)
}

function catchesDomain(entry: Entry, domain: string): boolean {
  return entryCatches(entry, { address: makeAddress(`x@${domain}`), listId: null, client: null }) || (entry.kind === 'address' && entry.value.endsWith(`@${domain}`))
}

function shown(entry: Pick<Entry, 'kind' | 'value'>): string {
  return entry.kind === 'domain and below' ? `${entry.value} and below` : entry.value || entry.kind
}
