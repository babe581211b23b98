import type { Department, Trust } from '#core'

export const OWN_DOMAIN = 'saltmere-harbour.example'
export const DEMO_PASSWORD = 'harbour-demo'
/** Where the stand-in relay connects from, and how it signs. */
export const STAND_IN_RELAY = { network: '127.0.0.2/32', authservId: `relay.${OWN_DOMAIN}`, address: '127.0.0.2' }

/** The desks of the office (a documentation network, RFC 5737): what they send is internal. */
const OFFICE_NETWORK = '198.51.100.128/25'
export const OFFICE_CLIENT = '198.51.100.140'

export const TRUST: Trust = {
  ownDomains: [OWN_DOMAIN],
  relays: [{ network: STAND_IN_RELAY.network, authservId: STAND_IN_RELAY.authservId }],
  publicProviders: ['letterpost.test', 'post-box.test'],
  ownNetworks: [OFFICE_NETWORK],
  upstreamVerdicts: [{ id: 'provider', name: 'our provider took it for junk', header: 'x-provider-verdict', text: 'junk*' }],
}

export const DEPARTMENTS: Department[] = [
  { id: 'berthing', name: 'Berthing' },
  { id: 'pilotage', name: 'Pilotage' },
  { id: 'ferry', name: 'Ferry Bookings' },
  { id: 'accounts', name: 'Accounts' },
  { id: 'patrol', name: 'Harbour Patrol' },
]

export interface DemoPerson {
  name: string
  role: 'administrator' | 'reviewer' | 'worker'
  /** Local parts; the first is the one that signs in. */
  mailboxes: string[]
  department: string | null
}

export const PEOPLE: DemoPerson[] = [
  { name: 'Ines Varga', role: 'administrator', mailboxes: ['admin', 'ines.varga', 'office'], department: null },
  // The office's mailbox is also the administrator's: its mail is for both of them.
  { name: 'Tove Halloran', role: 'worker', mailboxes: ['tove.halloran', 'berths', 'office'], department: 'berthing' },
  { name: 'Emeka Strand', role: 'worker', mailboxes: ['emeka.strand'], department: 'berthing' },
  { name: 'Lise Aubrac', role: 'worker', mailboxes: ['lise.aubrac'], department: 'berthing' },
  { name: 'Bram Okafor', role: 'worker', mailboxes: ['bram.okafor', 'pilots'], department: 'pilotage' },
  { name: 'Sunniva Dahl', role: 'worker', mailboxes: ['sunniva.dahl'], department: 'pilotage' },
  { name: 'Piet Lorne', role: 'worker', mailboxes: ['piet.lorne'], department: 'pilotage' },
  { name: 'Nadia Quill', role: 'worker', mailboxes: ['nadia.quill', 'bookings'], department: 'ferry' },
  { name: 'Joris Penhale', role: 'worker', mailboxes: ['joris.penhale'], department: 'ferry' },
  { name: 'Alma Reyes', role: 'worker', mailboxes: ['alma.reyes'], department: 'ferry' },
  { name: 'Oskar Brandt', role: 'worker', mailboxes: ['worker', 'oskar.brandt', 'accounts'], department: 'accounts' },
  { name: 'Hanne Solberg', role: 'worker', mailboxes: ['hanne.solberg'], department: 'accounts' },
  { name: 'Dov Marchetti', role: 'worker', mailboxes: ['dov.marchetti'], department: 'accounts' },
  { name: 'Runa Keel', role: 'reviewer', mailboxes: ['reviewer', 'runa.keel', 'patrol'], department: 'patrol' },
  { name: 'Kofi Lindqvist', role: 'worker', mailboxes: ['kofi.lindqvist'], department: 'patrol' },
]

/** The address under which a person is written to. */
export function addressOf(person: DemoPerson, mailbox = person.mailboxes.find(m => m.includes('.')) ?? person.mailboxes[0]!): string {
  return `${mailbox}@${OWN_DOMAIN}`
}

export function peopleOf(department: string): DemoPerson[] {
  return PEOPLE.filter(p => p.department === department)
}

/** The id of a person as the installation makes it from the address that signs in. */
export function personId(person: DemoPerson): string {
  return `${person.mailboxes[0]}-${OWN_DOMAIN}`
}
