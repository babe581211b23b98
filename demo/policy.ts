import type { Entry, EntryKind, List, Binding, Rule, Policy } from '#core'
import { PEOPLE, personId } from './world'

const OSKAR = `person:${personId(PEOPLE.find(p => p.mailboxes[0] === 'worker')!)}`

function entries(list: string, rows: [EntryKind, string, string?][]): Entry[] {
  return rows.map(([kind, value, note], i) => ({ id: `${list}-${i + 1}`, kind, value, addedBy: 'Ines Varga', ...(note ? { note } : {}) }))
}

const LISTS: List[] = [
  { id: 'regular-callers', name: 'Regular callers', owner: 'organisation', usualSide: 'allow', on: true, entries: entries('regular-callers', [
    ['domain', 'corrib-agency.example', 'agents since 2019'], ['domain', 'northwall-shipping.example'], ['domain', 'reth-and-daughters.example'], ['domain and below', 'imara-lines.example', 'every ship has a domain of its own'],
    ['address', 'accounts@quayline.example', 'not the whole domain: see the forged ones'], ['domain', 'astley-dredging.example'], ['domain', 'tide-survey.example'], ['address', 'desk@gull-rock-marina.example', 'comes through a forwarder'],
    ['domain', 'pilots-assoc.example'], ['domain', 'patrol-log.example'], ['domain', 'skerry-towage.example'], ['domain', 'fisk-fuel.example'], ['domain', 'harbour-cranes.example'], ['domain and below', 'ropeworks.example'],
  ]) },
  { id: 'authorities', name: 'Authorities', owner: 'organisation', usualSide: 'allow', on: true, entries: entries('authorities', [
    ['domain and below', 'coastal-authority.example'], ['domain', 'customs-prearrival.example'], ['domain', 'coastal-weather.example'], ['domain', 'port-health.example'], ['domain', 'pilot-board.example'], ['domain and below', 'county-sea.example'], ['domain', 'lights-and-buoys.example'],
  ]) },
  { id: 'speculators', name: 'Speculators', owner: 'organisation', usualSide: 'block', on: true, entries: entries('speculators', [
    ['domain and below', 'grain-outlook.test', 'changes the address every week'], ['address', 'desk@a.grain-outlook.test', 'the first one we saw'], ['domain', 'wheat-desk.test'], ['domain', 'berth-shares.test'], ['domain', 'quay-coin.test'], ['domain', 'barley-alert.test'], ['domain and below', 'futures-seat.test'], ['address', 'desk@oat-outlook.test'], ['address', 'seat@rye-desk.test'], ['domain', 'harbour-token.test'],
  ]) },
  { id: 'fee-forgers', name: 'Fee forgers', owner: 'organisation', usualSide: 'block', on: true, entries: entries('fee-forgers', [
    ['domain', 'northquay-freight.test'], ['domain', 'cargo-clearing.test'], ['domain', 'container-notice.test'], ['domain and below', 'demurrage-desk.test'], ['domain', 'saltmere-harb0ur.example', 'our name with a zero'], ['domain', 'saltrnere-harbour.example', 'rn for m'], ['domain', 'port-penalty.test'],
  ]) },
  { id: 'bargain-post', name: 'Bargain post', owner: 'organisation', usualSide: 'block', on: true, entries: entries('bargain-post', [
    ['domain and below', 'chain-bargains.test'], ['domain', 'rope-deals.test'], ['domain', 'buoy-outlet.test'], ['address', 'promo@anchor-sale.test'], ['domain', 'fender-discount.test'],
  ]) },
  { id: 'schools-and-clubs', name: 'Schools and clubs', owner: 'department:ferry', usualSide: 'allow', on: true, entries: entries('schools-and-clubs', [
    ['domain', 'tern-island-school.example'], ['domain', 'brackwater-choir.example'], ['domain', 'lowmoor-walkers.example'], ['domain', 'osyth-club.example'], ['domain', 'saltmere-scouts.example'], ['domain', 'estuary-college.example'], ['address', 'office@day-trips.example'],
  ]) },
  { id: 'patrol-callers', name: 'Patrol callers', owner: 'department:patrol', usualSide: 'allow', on: true, entries: entries('patrol-callers', [
    ['domain', 'patrol-log.example'], ['domain', 'coastal-weather.example'], ['domain and below', 'coastal-authority.example'], ['domain', 'corrib-agency.example'], ['domain', 'northwall-shipping.example'],
  ]) },
  { id: 'not-patrol-callers', name: 'Everyone not on Patrol callers', owner: 'department:patrol', usualSide: 'block', on: true, entries: entries('not-patrol-callers', [['everyone', '', 'a closed door, on trial']]) },
  { id: 'my-partners', name: 'My partners', owner: OSKAR, usualSide: 'allow', on: true, entries: entries('my-partners', [
    ['address', 'accounts@quayline.example'], ['domain', 'gull-rock-marina.example'], ['address', 'audit@county-sea.example'], ['domain', 'ledger-help.example'], ['domain', 'letterpost.test', 'my sister writes from there'],
  ]) },
  { id: 'not-for-me', name: 'Not for me', owner: OSKAR, usualSide: 'block', on: true, entries: entries('not-for-me', [
    ['address', 'news@regatta-society.example', 'the ferry office reads it, I do not'], ['domain', 'esker-logistics.test'], ['domain', 'esker-freight.test'],
  ]) },
]

const BINDINGS: Binding[] = [
  { id: 'regular-callers-allow', list: 'regular-callers', owner: 'organisation', side: 'allow', state: 'acting', protect: ['spam', 'delete', 'refuse'] },
  { id: 'authorities-allow', list: 'authorities', owner: 'organisation', side: 'allow', state: 'acting' },
  { id: 'speculators-block', list: 'speculators', owner: 'organisation', side: 'block', state: 'acting', stop: { to: 'spam' } },
  { id: 'fee-forgers-block', list: 'fee-forgers', owner: 'organisation', side: 'block', state: 'acting', stop: { to: 'quarantine', quarantine: 'general' } },
  { id: 'fee-forgers-no-answer', list: 'fee-forgers', owner: 'organisation', side: 'block', direction: 'outbound', state: 'acting', stop: { to: 'refuse', reply: 'Nobody here answers forged fee demands' } },
  { id: 'bargain-post-block', list: 'bargain-post', owner: 'organisation', side: 'block', state: 'acting', stop: { to: 'bin' } },
  { id: 'schools-and-clubs-allow', list: 'schools-and-clubs', owner: 'department:ferry', side: 'allow', state: 'acting' },
  { id: 'patrol-callers-allow', list: 'patrol-callers', owner: 'department:patrol', side: 'allow', state: 'acting' },
  { id: 'not-patrol-callers-block', list: 'not-patrol-callers', owner: 'department:patrol', side: 'block', state: 'watching', stop: { to: 'quarantine', quarantine: 'general' } },
  { id: 'my-partners-allow', list: 'my-partners', owner: OSKAR, side: 'allow', state: 'acting' },
  { id: 'not-for-me-block', list: 'not-for-me', owner: OSKAR, side: 'block', state: 'acting', stop: { to: 'bin' } },
]

const RULES: Rule[] = [
  { id: 'fee-demands', name: 'Fee demands', owner: 'organisation', must: true, state: 'acting', description: 'Forged container release fees.', when: { phrases: ['release fee', 'handling fee', 'gate-out charge'] }, except: [{ senderOn: 'authorities' }], claims: [{ stop: { to: 'quarantine', quarantine: 'general' } }, { effect: { kind: 'tag', value: 'fee demand' } }] },
  { id: 'changed-bank-details', name: 'Changed bank details', owner: 'organisation', must: true, state: 'acting', when: { phrases: ['changed bank details', 'new bank account', 'has closed the old account'] }, except: [{ senderOn: 'regular-callers' }], claims: [{ stop: { to: 'quarantine', quarantine: 'general' } }] },
  { id: 'accounts-in-documents', name: 'New accounts in documents', owner: 'organisation', must: true, state: 'acting', description: 'What the text does not say, the attached invoice may.', when: { all: [{ phrases: ['new bank account', 'old one is closed'], where: ['attachment text'] }, { any: [{ authentication: 'none' }, { authentication: 'fail' }, { phrases: ['invoice', 'payment'], where: ['subject'] }] }] }, except: [{ sender: { kind: 'address', value: 'accounts@quayline.example' } }], claims: [{ stop: { to: 'quarantine', quarantine: 'general' } }] },
  { id: 'passports-stay', name: 'Passport numbers stay', owner: 'organisation', state: 'acting', direction: 'outbound', description: 'They go by the portal, not by mail.', when: { all: [{ phrases: ['passport'] }, { expression: '\\b[a-z]{2}\\d{7}\\b' }] }, except: [], claims: [{ stop: { to: 'quarantine', quarantine: 'security' } }] },
  { id: 'saturdays', name: 'Saturdays', owner: OSKAR, state: 'acting', direction: 'internal', when: { phrases: ['saturday'] }, except: [], claims: [{ effect: { kind: 'tag', value: 'rota' } }] },
  { id: 'programs', name: 'Programs', owner: 'organisation', must: true, state: 'acting', description: 'Whatever they call themselves.', when: { attachment: { kind: 'program' } }, except: [], claims: [{ stop: { to: 'quarantine', quarantine: 'security' } }, { effect: { kind: 'subject mark', value: '[program]' } }] },
  { id: 'disguised-fees', name: 'Disguised fees', owner: 'organisation', must: true, state: 'acting', when: { phrases: ['release fee', 'handling fee'], view: 'undisguised', near: { phrases: ['within 24 hours', 'today only'], within: 10 } }, except: [{ senderOn: 'regular-callers' }], claims: [{ stop: { to: 'quarantine', quarantine: 'fee-demands' } }] },
  { id: 'payment-pressure', name: 'Payment pressure', owner: 'organisation', state: 'watching', when: { set: 'pressure' }, except: [], claims: [{ stop: { to: 'spam' } }] },
  { id: 'keep-authorities', name: 'Keep what authorities send', owner: 'organisation', state: 'acting', when: { senderOn: 'authorities' }, except: [], claims: [{ protect: ['spam', 'quarantine', 'delete', 'refuse'] }, { place: { to: 'inbox' } }, { effect: { kind: 'tag', value: 'authority' } }] },
  { id: 'gale-warnings', name: 'Gale warnings', owner: 'organisation', state: 'acting', when: { all: [{ phrases: ['gale warning'], where: ['subject'] }, { senderOn: 'authorities' }] }, except: [], claims: [{ effect: { kind: 'important' } }] },
  { id: 'coins-and-shares', name: 'Coins and shares', owner: 'organisation', state: 'acting', when: { phrases: ['berth shares', 'guaranteed return', 'wheat futures'] }, except: [], claims: [{ stop: { to: 'spam' } }] },
  { id: 'catalogues', name: 'Catalogues', owner: 'organisation', state: 'acting', when: { phrases: ['catalogue', 'clearance'] }, except: [{ phrases: ['password'], where: ['subject'] }], claims: [{ stop: { to: 'bin' } }] },
  { id: 'applications', name: 'Job applications', owner: 'organisation', state: 'acting', group: 'Tags', when: { phrases: ['application'], where: ['subject'] }, except: [], claims: [{ effect: { kind: 'tag', value: 'application' } }] },
  { id: 'old-grain', name: 'Grain, the old rule', owner: 'organisation', state: 'off', when: { phrases: ['wheat'], where: ['subject'] }, except: [], claims: [{ stop: { to: 'bin' } }] },
  { id: 'group-bookings', name: 'Group bookings', owner: 'department:ferry', state: 'acting', when: { phrases: ['group booking', 'school trip'] }, except: [], claims: [{ protect: ['spam', 'quarantine', 'delete', 'refuse'] }, { place: { to: 'inbox' } }, { effect: { kind: 'tag', value: 'booking' } }] },
  { id: 'bank-details-in-accounts', name: 'Bank details in Accounts', owner: 'department:accounts', state: 'watching', when: { phrases: ['bank details', 'bank account'] }, except: [{ sender: { kind: 'address', value: 'accounts@quayline.example' } }], claims: [{ stop: { to: 'quarantine', quarantine: 'general' } }] },
  { id: 'invoices', name: 'Invoices', owner: 'department:accounts', state: 'acting', when: { phrases: ['invoice'], where: ['subject'] }, except: [], claims: [{ effect: { kind: 'tag', value: 'invoice' } }] },
  { id: 'rosters', name: 'Rosters', owner: 'department:pilotage', state: 'acting', when: { all: [{ phrases: ['roster'], where: ['subject'] }, { sender: { kind: 'domain', value: 'pilots-assoc.example' } }] }, except: [], claims: [{ effect: { kind: 'important' } }, { effect: { kind: 'tag', value: 'roster' } }] },
  { id: 'freight-rates', name: 'Freight rates', owner: OSKAR, state: 'acting', when: { phrases: ['our rates', 'cargo list'] }, except: [], claims: [{ stop: { to: 'spam' } }] },
]

/** The clauses of the harbour office. */
export const DEMO_CLAUSES: Pick<Policy, 'quarantines' | 'lists' | 'bindings' | 'phraseSets' | 'rules'> = {
  quarantines: [{ id: 'general', name: 'General', general: true }, { id: 'security', name: 'Security' }, { id: 'fee-demands', name: 'Fee demands' }],
  lists: LISTS, bindings: BINDINGS, rules: RULES,
  phraseSets: [{ id: 'pressure', name: 'Pressure', owner: 'organisation', phrases: ['within 24 hours', 'today only', 'final notice', { text: 'is auctioned', weight: 2 }], minimum: 2 }],
}
