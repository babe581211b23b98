import type { Envelope } from '#core'
import { compose, type DemoMail } from './compose'
import { conversation } from './conversation'
import { KINDS, type Kind } from './kinds'
import { oddMail } from './odd'
import { Random } from './random'
import { asSent, type SentMail } from './sent'
import { addressOf, OFFICE_CLIENT, OWN_DOMAIN, PEOPLE, STAND_IN_RELAY, type DemoPerson } from './world'

export interface DemoMessage {
  bytes: Uint8Array
  envelope: Envelope
  kind: string
  /** The same as it comes from its sender, signed, over no relay; of a colleague as it is. */
  sent: () => Promise<SentMail>
  /** What each recipient would say of it if asked. */
  truth: { recipient: string, wanted: boolean }[]
}

/** The kind of mail that no program should make. */
export const ODD = 'odd shape'

const DAYS = 90
const DAY = 24 * 60 * 60 * 1000
// Documentation networks (RFC 5737): wanted mail tends to come from one, unwanted from another.
const CLIENTS = { wanted: '192.0.2.', unwanted: '203.0.113.' }

/**
 * The scenario's mail, oldest first, the same for the same arguments.
 * @param anchor day (UTC) before which the 90 days lie
 * @param count how many messages; the conversation of nine and six of odd shapes are among them
 */
export function* generate(anchor: Date, count: number, seed = 20_311): Generator<DemoMessage> {
  const random = new Random(seed)
  const start = Date.UTC(anchor.getUTCFullYear(), anchor.getUTCMonth(), anchor.getUTCDate()) - DAYS * DAY
  const talk = conversation()
  const odd = oddMail()
  const plain = Math.max(0, count - talk.length - odd.length)
  const times = Array.from({ length: plain }, () => officeTime(random, start)).sort((a, b) => a - b)
  const talkEvery = Math.max(1, Math.floor(plain / (talk.length + 1)))
  const oddEvery = Math.max(1, Math.floor(plain / (odd.length + 1)))
  let said = 0
  let shown = 0
  for (let n = 0; n < plain; n++) {
    const kind = pickKind(random)
    yield message(kind.make(random, n), kind, { id: `m${n}.${seed}`, at: times[n]! }, random)
    if ((n + 1) % talkEvery === 0 && said < talk.length) {
      const turn = talk[said]!
      yield message(
        turn,
        { name: 'conversation', weight: 0, make: () => turn, wanted: () => true },
        { id: `dredge-${said}`, at: times[n]! + 60_000 },
        random,
      )
      said++
    }
    if ((n + 1) % oddEvery === 0 && shown < odd.length) {
      const { mail, wanted } = odd[shown]!
      yield message(
        mail,
        { name: ODD, weight: 0, make: () => mail, wanted: () => wanted },
        { id: `odd-${shown}`, at: times[n]! + 120_000 },
        random,
      )
      shown++
    }
  }
}

function message(mail: DemoMail, kind: Kind, { id, at }: { id: string, at: number }, random: Random): DemoMessage {
  const date = new Date(at)
  const wantedByAll = kind.wanted(null)
  const client = `${wantedByAll ? CLIENTS.wanted : CLIENTS.unwanted}${random.between(1, 254)}`
  const envelope: Envelope = {
    mailFrom: mail.mailFrom ?? mail.from.address,
    rcptTo: mail.to,
    client: mail.inside ? OFFICE_CLIENT : STAND_IN_RELAY.address,
    helo: mail.inside ? `desk.${OWN_DOMAIN}` : STAND_IN_RELAY.authservId,
    tls: false,
    user: null,
    receivedAt: new Date(at + random.between(1, 20) * 1000).toISOString(),
  }
  const bytes = compose(mail, id, date, client)
  return {
    bytes,
    envelope,
    sent: async () => (mail.inside ? { bytes, envelope } : asSent({ mail, bytes: compose(mail, id, date, null), envelope, client })),
    kind: kind.name,
    truth: mail.to.map(recipient => ({ recipient, wanted: kind.wanted(personWith(recipient)) })),
  }
}

function personWith(address: string): DemoPerson | null {
  return PEOPLE.find(p => p.mailboxes.some(m => `${m}@${OWN_DOMAIN}` === address) || addressOf(p) === address) ?? null
}

function pickKind(random: Random): Kind {
  let at = random.next() * KINDS.reduce((sum, k) => sum + k.weight, 0)
  return KINDS.find(k => (at -= k.weight) < 0) ?? KINDS[0]!
}

// Mostly in office hours, less at the weekend.
function officeTime(random: Random, start: number): number {
  for (;;) {
    const day = random.between(0, DAYS - 1)
    const weekend = [0, 6].includes(new Date(start + day * DAY).getUTCDay())
    if (weekend && random.chance(0.7)) continue
    const hour = random.chance(0.85) ? random.between(7, 17) : random.between(0, 23)
    return start + day * DAY + hour * 3_600_000 + random.between(0, 3_599) * 1000
  }
}
