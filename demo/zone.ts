import { createPublicKey } from 'node:crypto'
import { ED25519_KEY, RSA_KEY } from './keys'
import { OWN_DOMAIN } from './world'

/** Selectors, at every domain that signs: a key each, and one whose record was broken when it was renewed. */
export const SELECTORS = { rsa: 'r1', ed25519: 'e1', broken: 'old' }
/** A mail service with many customers: it signs beside them, and its domain matches none of theirs. */
export const BULK_SENDER = 'out.bulk-post.test'
/** It forwards for those who left a school, puts a line below, which breaks signatures, and seals what it found (RFC 8617). */
export const FORWARDER = 'alumni-forward.example'

/** Domains that sign by RSA, as most do. */
const SIGNING = [
  'brackwater-choir.example', 'coastal-authority.example', 'coastal-weather.example', 'quayline.example', 'northwall-shipping.example',
  'quaylline.example', 'regatta-society.example', 'letterpost.test', 'esker-logistics.test', 'hexham-rowe.example', 'imara-lines.example',
  'tern-island-school.example', 'post-box.test', 'reth-and-daughters.example', 'pilots-assoc.example', 'gull-rock-marina.example',
  'osyth-club.example', 'lowmoor-walkers.example', FORWARDER,
]
/** By Ed25519 (RFC 8463). */
const SIGNING_ED25519 = ['corrib-agency.example', 'astley-dredging.example', 'tide-survey.example']
/** These forgot to sign, and name their servers (RFC 7208). */
const BY_SPF = ['customs-prearrival.example', 'patrol-log.example']
/** Advertising, sent by the bulk sender. */
const BULK = [
  'chain-bargains.test', 'mail.chain-bargains.test', 'quay-coin.test', 'terminal-desk.test', 'cargo-clearing.test', 'berth-shares.test',
  'wheat-desk.test', 'northquay-freight.test', 'invoice-portal.test', 'release-desk.test', 'grain-outlook.test', 'a.grain-outlook.test',
  'pay-desk.test', 'esker-freight.test',
]
/** What is asked for mail that fails (RFC 7489). */
const DMARC: Record<string, string> = {
  [OWN_DOMAIN]: 'v=DMARC1; p=reject',
  'saltmere-harb0ur.example': 'v=DMARC1; p=none',
  'saltrnere-harbour.example': 'v=DMARC1; p=none',
  'gull-rock-marina.example': 'v=DMARC1; p=quarantine',
}

/** How mail of a domain is authenticated. */
export function signerOf(domain: string): 'rsa' | 'ed25519' | 'spf' | null {
  if (SIGNING.includes(domain) || BULK.includes(domain)) return 'rsa'
  if (SIGNING_ED25519.includes(domain)) return 'ed25519'
  return BY_SPF.includes(domain) ? 'spf' : null
}

export function isBulk(domain: string): boolean {
  return BULK.includes(domain)
}

/** The zone of the demo's senders, in master file format (RFC 1035 5): what the stand-in for DNS answers from. */
export function demoZone(): string {
  const rsa = createPublicKey(RSA_KEY).export({ type: 'spki', format: 'der' }).toString('base64')
  // RFC 8463 4: the bare key, the end of its DER form.
  const ed25519 = createPublicKey(ED25519_KEY).export({ type: 'spki', format: 'der' }).subarray(-32).toString('base64')
  const rsaKey = record(`${SELECTORS.rsa}._domainkey`, `v=DKIM1; k=rsa; p=${rsa}`)
  return [
    '; Senders of the demo: invented domains, answered by a stand-in on loopback.',
    '$TTL 300',
    ...[...SIGNING, ...BULK, BULK_SENDER].flatMap(domain => [
      `$ORIGIN ${domain}.`,
      rsaKey,
      record(`${SELECTORS.broken}._domainkey`, 'v=DKIM1; k=rsa; p=MIIB+not-a-key'),
    ]),
    ...SIGNING_ED25519.flatMap(domain => [`$ORIGIN ${domain}.`, record(`${SELECTORS.ed25519}._domainkey`, `v=DKIM1; k=ed25519; p=${ed25519}`)]),
    ...[...BY_SPF, FORWARDER].map(domain => record(`${domain}.`, 'v=spf1 ip4:192.0.2.0/24 -all')),
    record(`${OWN_DOMAIN}.`, 'v=spf1 ip4:198.51.100.128/25 -all'),
    ...Object.entries(DMARC).map(([domain, text]) => record(`_dmarc.${domain}.`, text)),
    '',
  ].join('\n')
}

function record(name: string, text: string): string {
  const strings = text.match(/.{1,200}/g)!.map(s => `"${s}"`)
  return `${name} TXT ${strings.length > 1 ? `( ${strings.join('\n    ')} )` : strings[0]}`
}
