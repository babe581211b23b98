import { pdfOf } from './pdf'
import type { DemoMail } from './compose'
import type { Random } from './random'
import { addressOf, OWN_DOMAIN, PEOPLE, peopleOf, type DemoPerson } from './world'

/** A kind of mail that the harbour gets. */
export interface Kind {
  name: string
  /** How often, against the others. */
  weight: number
  make(random: Random, n: number): DemoMail
  /** Whether the person wants it. */
  wanted(person: DemoPerson | null): boolean
}

const SHIPS = [
  'MV Calder Rose',
  'MV Ostrava Wind',
  'MT Lady Imara',
  'MV Tern Sound',
  'MV Corrib Star',
  'MT Azurine',
  'MV Hald Bay',
  'MV Skerry Light',
]
const AGENTS = [
  { name: 'Marit Oduya', address: 'marit.oduya@corrib-agency.example', org: 'Corrib Agency' },
  { name: 'Pia Lindqvist', address: 'ops@northwall-shipping.example', org: 'Northwall Shipping' },
  { name: 'Callum Reth', address: 'agency@reth-and-daughters.example', org: 'Reth & Daughters' },
  { name: 'Imara Lines desk', address: 'desk@imara-lines.example', org: 'Imara Lines' },
]
const SCHOOLS = [
  { name: 'Tern Island School', address: 'trips@tern-island-school.example' },
  { name: 'Brackwater Choir', address: 'secretary@brackwater-choir.example' },
  { name: 'Lowmoor Walking Club', address: 'walks@lowmoor-walkers.example' },
  { name: 'St Osyth Juniors', address: 'juniors@osyth-club.example' },
]
const GREETINGS = ['Good morning,', 'Hello,', 'Dear colleagues,', 'Dear harbour office,']
const PHOTOGRAPHS = 'Photographs are on the society’s page.'
const CLEARANCE = 'The spring clearance of the boat shed is on Sunday.'
const SMALL_TALK = [
  'the minutes are in the usual place.',
  'the lamps burn again.',
  'I can take Saturday if somebody takes Sunday.',
  'half past twelve, as ever.',
]
const LISTS = (domain: string, name: string): [string, string][] => [
  ['List-Id', `${name} <${name.toLowerCase().replace(/\W+/g, '-')}.${domain}>`],
  ['List-Unsubscribe', `<https://${domain}/leave>, <mailto:leave@${domain}>`],
  ['List-Unsubscribe-Post', 'List-Unsubscribe=One-Click'],
  ['Precedence', 'bulk'],
]

const to = (...people: DemoPerson[]) => people.map(p => addressOf(p))
const one = (random: Random, department: string) => [addressOf(random.pick(peopleOf(department)))]
const at = (mailbox: string) => [`${mailbox}@${OWN_DOMAIN}`]
const everyone = () => true
const nobody = () => false
const pdf = (name: string, ...lines: string[]) => ({ name, type: 'application/pdf', bytes: pdfOf(lines) })

export const KINDS: Kind[] = [
  {
    name: 'berth request',
    weight: 12,
    wanted: everyone,
    make(r) {
      const agent = r.pick(AGENTS)
      const ship = r.pick(SHIPS)
      return {
        from: agent,
        to: r.chance(0.5) ? at('berths') : one(r, 'berthing'),
        authentication: 'pass',
        subject: `Berth request: ${ship}, ${r.between(1, 28)} of the month`,
        text: `${r.pick(GREETINGS)}\n\nplease reserve ${r.pick(['Berth 2', 'Berth 4', 'the north quay', 'the tanker jetty'])} for `
          + `${ship}, length ${r.between(70, 190)} m, draught ${r.between(4, 9)}.${r.between(0, 9)} m.\nETA pilot station `
          + `${r.between(0, 23)}:${r.pick(['00', '15', '30'])}. Two lines of shore power if free.\n\nKind `
          + `regards\n${agent.name}\n${agent.org}`,
      }
    },
  },
  {
    name: 'pilot roster',
    weight: 5,
    wanted: everyone,
    make(r, n) {
      return {
        from: { name: 'Pilots’ Association', address: 'rosters@pilots-assoc.example' },
        to: [...at('pilots'), ...to(...peopleOf('pilotage').slice(1))],
        authentication: 'pass',
        subject: `Pilot roster, week ${1 + (n % 52)}`,
        text: `All,\n\nthe roster for week ${1 + (n % 52)} is attached. Swaps by Thursday noon, please. Night duty `
          + `${r.pick(['Dahl', 'Okafor', 'Lorne'])} on Saturday.\n\nThe rota desk`,
        attachments: [pdf(`roster-${1 + (n % 52)}.pdf`, `Roster, week ${1 + (n % 52)}`, 'Dahl: nights. Okafor: days. Lorne: on call.')],
      }
    },
  },
  {
    name: 'tide notice',
    weight: 8,
    wanted: everyone,
    make(r, n) {
      return {
        from: { name: 'Coastal Authority', address: 'notices@coastal-authority.example' },
        to: [...one(r, 'berthing'), ...one(r, 'pilotage'), ...at('patrol')],
        authentication: 'pass',
        subject: r.chance(0.5) ? `Dredging notice ${(n % 40) + 1}, outer channel` : `Tide table correction ${(n % 40) + 1}`,
        headers: LISTS('coastal-authority.example', 'Notices'),
        text: `Notice ${(n % 40) + 1}\n\nThe outer channel is dredged between buoys ${r.between(3, 9)} and ${r.between(10, 16)}. Keep `
          + `${r.between(2, 5)} cables clear. Least depth ${r.between(5, 9)}.${r.between(0, 9)} m at low water.\n\nThis notice cancels `
          + `the one before it.`,
      }
    },
  },
  {
    name: 'group booking',
    weight: 12,
    wanted: everyone,
    make(r) {
      const group = r.pick(SCHOOLS)
      const people = r.between(12, 60)
      return {
        from: group,
        to: r.chance(0.6) ? at('bookings') : one(r, 'ferry'),
        authentication: r.chance(0.8) ? 'pass' : 'none',
        subject: `Group booking: ${people} people, ${r.between(2, 5)} adults`,
        text: `${r.pick(GREETINGS)}\n\nwe would like to book the ${r.pick(['9:40', '10:20', '13:05'])} ferry for ${people} people. `
          + r.pick([
            'Could you send us your bank details for the transfer?',
            'We pay by bank transfer; please send the bank details.',
            'Is there a price for groups?',
          ])
          + `\nTwo of us use a wheelchair.\n\nMany thanks\n${group.name}`,
      }
    },
  },
  {
    name: 'chandler invoice',
    weight: 8,
    wanted: everyone,
    make(r) {
      const number = r.between(7000, 7990)
      const pressing = r.chance(0.45)
      return {
        from: { name: 'Quayline Chandlers', address: 'accounts@quayline.example' },
        to: r.chance(0.7) ? at('oskar.brandt') : one(r, 'accounts'),
        authentication: 'pass',
        subject: pressing ? `Invoice ${number}, payment within 24 hours` : `Invoice ${number}`,
        text: `Dear Mr Brandt,\n\nplease find invoice ${number} for the mooring lines delivered on `
          + `${r.pick(['Monday', 'Wednesday', 'Friday'])}. `
          + (pressing
            ? 'As agreed with the berthing desk a handling fee of 40.00 applies for the crane; '
            + 'if it is settled within 24 hours we take it off the next order.'
            : 'The lines themselves are due at the usual thirty days.')
          + '\n\nWith kind regards\nQuayline Chandlers',
        attachments: [pdf(`invoice-${number}.pdf`, `Invoice ${number}`, 'Mooring lines, 4 at 120.00', 'To the account you know.')],
      }
    },
  },
  {
    name: 'customs form',
    weight: 6,
    wanted: everyone,
    make(r) {
      const ship = r.pick(SHIPS)
      return {
        from: { name: 'Customs pre-arrival desk', address: 'forms@customs-prearrival.example' },
        to: [...one(r, 'berthing'), ...one(r, 'accounts')],
        authentication: 'pass',
        subject: `Form accepted: ${ship}`,
        text: `The pre-arrival form of ${ship} was accepted.\nReference ${r.between(100000, 999999)}. `
          + (r.chance(0.3) ? 'A release fee of 0.00 was calculated; nothing is to be paid.' : 'No further documents are needed.')
          + '\n\nThis message was made automatically.',
        headers: [['Auto-Submitted', 'auto-generated']],
      }
    },
  },
  {
    name: 'crew change',
    weight: 6,
    wanted: everyone,
    make(r) {
      const agent = r.pick(AGENTS)
      return {
        from: agent,
        to: [...at('patrol'), ...one(r, 'berthing')],
        authentication: 'pass',
        subject: `Crew change list, ${r.pick(SHIPS)}, ${r.between(1, 4)} corrections`,
        text: `Hello,\n\ncrew on ${r.between(2, 9)}, crew off ${r.between(2, 9)}. The list is attached; gate passes from 08:00, `
          + `please.\n\n${agent.name}`,
        attachments: [
          {
            name: 'crew.csv',
            type: 'text/csv',
            bytes: new TextEncoder().encode('name,rank,pass\r\nA. Nilsen,Master,12\r\nJ. Cole,Cook,13\r\n'),
          },
        ],
      }
    },
  },
  {
    name: 'regatta newsletter',
    weight: 7,
    wanted: p => p?.department === 'ferry' || p?.department === 'berthing',
    make(r, n) {
      return {
        from: { name: 'Regatta Society', address: 'news@regatta-society.example' },
        to: to(...peopleOf('ferry').slice(0, 2), ...peopleOf('patrol').slice(1), ...peopleOf('accounts').slice(0, 1)),
        authentication: 'pass',
        subject: `Newsletter ${(n % 30) + 1}: results and photographs`,
        headers: LISTS('regatta-society.example', 'Regatta news'),
        text: `Results of race ${(n % 30) + 1}\n\nFirst: Petrel. Second: Blue Hour. `
          + `${r.pick([PHOTOGRAPHS, CLEARANCE, 'The winter lay-up list is out.'])}\n`,
        html: `<html><body><h1>Results of race ${(n % 30) + 1}</h1><p>First: <b>Petrel</b>. Second: Blue Hour.</p>`
          + `<p>${r.pick([PHOTOGRAPHS, CLEARANCE])}</p>`
          + '<p><a href="https://regatta-society.example/leave">Leave this list</a></p></body></html>',
      }
    },
  },
  {
    name: 'weather',
    weight: 10,
    wanted: everyone,
    make(r) {
      return {
        from: { name: 'Coastal Weather List', address: 'list@coastal-weather.example' },
        to: [...one(r, 'pilotage'), ...at('patrol')],
        authentication: 'pass',
        subject: r.chance(0.3) ? 'Gale warning, sea area Fisk' : 'Sea area forecast, Fisk and Skerry',
        headers: LISTS('coastal-weather.example', 'Sea area'),
        text: `Fisk: ${r.pick(['south-west', 'west', 'north'])} ${r.between(4, 9)}, `
          + `${r.pick(['rain at times', 'good', 'moderate or poor'])}.\nSkerry: variable ${r.between(2, 4)}.\nNext report at `
          + `${r.pick(['06:00', '12:00', '18:00'])}.`,
      }
    },
  },
  {
    name: 'patrol report',
    weight: 5,
    wanted: everyone,
    make(r, n) {
      return {
        from: { name: 'Harbour Patrol log', address: 'log@patrol-log.example' },
        to: to(...peopleOf('patrol')),
        authentication: 'pass',
        subject: `Daily report ${(n % 90) + 1}`,
        headers: [['Auto-Submitted', 'auto-generated']],
        text: `Rounds: ${r.between(3, 6)}. Incidents: ${r.between(0, 2)}. `
          + r.pick(['Nothing to add.', 'A loose fender at Berth 2.', 'Gate 3 was found open at 23:10.']),
      }
    },
  },
  {
    name: 'catalogue',
    weight: 8,
    wanted: nobody,
    make(r) {
      return {
        from: { name: 'Parts catalogue Hexham & Rowe', address: 'offers@hexham-rowe.example' },
        to: r.chance(0.5) ? one(r, 'berthing') : one(r, 'accounts'),
        authentication: 'pass',
        subject: r.pick(['Winter clearance', 'The new catalogue is here', 'Catalogue: pumps, valves, fenders']),
        headers: LISTS('hexham-rowe.example', 'Offers'),
        text: `Our catalogue of the season: pumps from ${r.between(90, 400)}.00. Clearance until Sunday.\n\nYou get this because you `
          + `bought from us.`,
        html: `<div style="font-family:sans-serif"><h2>Winter clearance</h2><p>Pumps from <b>${r.between(90, 400)}.00</b>. The catalogue `
          + `is attached to our page.</p><p style="font-size:0">berth request invoice customs</p></div>`,
      }
    },
  },
  {
    name: 'password notice',
    weight: 2,
    wanted: everyone,
    make(r) {
      return {
        from: { name: 'Hexham & Rowe', address: 'security@hexham-rowe.example' },
        to: one(r, 'accounts'),
        authentication: 'pass',
        subject: 'Your password was changed',
        text: 'The password of your customer account was changed today. If that was you, there is nothing to do. If not, call us: the '
          + 'number is in the printed catalogue.',
        headers: [['Auto-Submitted', 'auto-generated']],
      }
    },
  },
  {
    name: 'job application',
    weight: 5,
    wanted: everyone,
    make(r) {
      const person = r.pick([
        ['Sören Ågren', 'soeren.agren@post-box.test'],
        ['Tamsin Vole', 't.vole@letterpost.test'],
        ['Ifeoma Grant', 'ifeoma.grant@post-box.test'],
      ] as const)
      return {
        from: { name: person[0], address: person[1] },
        to: r.chance(0.5) ? at('office') : one(r, 'berthing'),
        authentication: r.chance(0.7) ? 'pass' : 'none',
        subject: `Application: ${r.pick(['deckhand', 'booking clerk', 'traffic officer'])}`,
        text: `Dear Sir or Madam,\n\nI apply for the post in your notice. My papers are attached.\n\nYours faithfully\n${person[0]}`,
        attachments: [pdf('application.pdf', person[0], 'Deckhand on three ferries, boat licence, first aid.')],
      }
    },
  },
  {
    name: 'forwarded customer',
    weight: 4,
    wanted: everyone,
    make(r) {
      return {
        from: { name: 'Gull Rock Marina', address: 'desk@gull-rock-marina.example' },
        mailFrom: 'forward@alumni-forward.example',
        to: r.chance(0.5) ? at('berths') : at('oskar.brandt'),
        authentication: 'fail',
        subject: r.pick(['Crane booked for Friday', 'Your crane hour and the gate-out charge']),
        text: `Hello,\n\nthe crane is booked for ${r.pick(['Friday', 'Monday'])} at ${r.between(8, 15)}:00. `
          + `${r.chance(0.5) ? 'The gate-out charge is on the next invoice.' : 'Bring the slings, please.'}\n\nGull Rock Marina`,
      }
    },
  },
  {
    name: 'release fee',
    weight: 12,
    wanted: nobody,
    make(r, n) {
      const sender = r.pick([
        ['Northquay Freight Desk', 'billing@northquay-freight.test'],
        ['Container Release', `case${n}@release-desk.test`],
        ['Cargo Clearing', 'officer@cargo-clearing.test'],
      ] as const)
      return {
        from: { name: sender[0], address: sender[1] },
        to: r.chance(0.4) ? at('oskar.brandt') : one(r, r.pick(['accounts', 'berthing', 'ferry'])),
        authentication: r.chance(0.5) ? 'pass' : 'none',
        subject: r.pick([
          'Container release fee — final notice',
          'Release fee due today',
          `Your container ${r.between(10000, 99999)} is held`,
        ]),
        text: `Attention,\n\na container in your name is held at the terminal. The release fee of ${r.between(300, 990)}.00 must be `
          + `settled within 24 hours, or it is auctioned. Pay to the account in the link: `
          + `https://northquay-freight.test/pay\n\n${sender[0]}`,
      }
    },
  },
  {
    name: 'release fee in disguise',
    weight: 4,
    wanted: nobody,
    make(r, n) {
      const text = r.pick([
        'the reIease fee for your box is due within 24 hours',
        'the rеlеаse fее for your box is due within 24 hours',
        'r e l e a s e  f e e, due within 24 hours',
        'the re\u200Blease f\u00ADee for your box is due within 24 hours',
        'the r3lease f33 is due within 24 hours',
      ])
      return {
        from: { name: 'Terminal Desk', address: `notice${n}@terminal-desk.test` },
        to: r.chance(0.5) ? at('oskar.brandt') : one(r, r.pick(['accounts', 'berthing'])),
        authentication: r.chance(0.5) ? 'pass' : 'none',
        subject: r.pick(['Your box', 'Terminal notice', 'Storage ends']),
        text: `Attention,\n\n${text}.\n\nTerminal Desk`,
      }
    },
  },
  {
    name: 'program as invoice',
    weight: 3,
    wanted: nobody,
    make(r) {
      const number = r.between(2000, 2999)
      return {
        from: { name: 'Accounts receivable', address: `billing@${r.pick(['invoice-portal.test', 'pay-desk.test'])}` },
        to: one(r, r.pick(['accounts', 'ferry'])),
        authentication: 'pass',
        subject: `Invoice ${number} attached`,
        text: 'Open the attached invoice, please.',
        attachments: [
          {
            name: `invoice-${number}.pdf.exe`,
            type: 'application/pdf',
            bytes: Uint8Array.from([0x4d, 0x5a, 0x90, 0, 3, 0, 0, 0, 4, 0, 0, 0, 0xff, 0xff, 0, 0]),
          },
        ],
      }
    },
  },
  {
    name: 'freight broker',
    weight: 6,
    wanted: nobody,
    make(r) {
      return {
        from: {
          name: 'Esker Logistics',
          address: r.pick(['sales@esker-logistics.test', 'rates@esker-logistics.test', 'today@esker-freight.test']),
        },
        to: one(r, r.pick(['berthing', 'accounts', 'pilotage'])),
        authentication: 'pass',
        subject: r.pick(['Your box awaits release', 'Second reminder', 'Rates that end today']),
        text: 'Dear customer,\n\nour rates end today only. '
          + (r.chance(0.5) ? 'A small release fee secures your slot.' : 'Answer with your cargo list and we do the rest.')
          + '\n\nEsker Logistics',
      }
    },
  },
  {
    name: 'own domain imitated',
    weight: 5,
    wanted: nobody,
    make(r) {
      const address = r.pick(['accounts@saltmere-harb0ur.example', 'ines.varga@saltrnere-harbour.example', `accounts@${OWN_DOMAIN}`])
      return {
        from: { name: address.startsWith('ines') ? 'Ines Varga' : 'Harbour accounts', address },
        to: at('oskar.brandt'),
        authentication: 'fail',
        subject: `Changed bank details, invoice ${r.between(2000, 2999)}`,
        text: `Oskar,\n\nthe supplier has changed bank details. Please use the new bank account for invoice ${r.between(2000, 2999)} `
          + `today; I am in a meeting and cannot be called.\n\nInes`,
      }
    },
  },
  {
    name: 'supplier imitated',
    weight: 4,
    wanted: nobody,
    make(r) {
      return {
        from: { name: 'Quayline Chandlers', address: 'accounts@quaylline.example' },
        to: one(r, 'accounts'),
        authentication: r.chance(0.5) ? 'pass' : 'none',
        subject: `Invoice ${r.between(7000, 7990)}: our new bank account`,
        text: 'Dear Mr Brandt,\n\nour bank has closed the old account. Please pay this and all open invoices to the new bank account '
          + 'below.\n\nQuayline Chandlers',
        attachments: [pdf('invoice.pdf', 'Invoice', 'To our new bank account.')],
      }
    },
  },
  {
    name: 'changed details in a document',
    weight: 2,
    wanted: nobody,
    make(r) {
      const number = r.between(7000, 7990)
      return {
        from: { name: 'Quayline Chandlers', address: r.pick(['accounts@quayline-billing.test', 'accounts@qauyline.test']) },
        to: r.chance(0.6) ? at('oskar.brandt') : one(r, 'accounts'),
        authentication: 'none',
        subject: `Invoice ${number}`,
        text: `Dear Mr Brandt,\n\nplease see the attached invoice ${number}.\n\nQuayline Chandlers`,
        attachments: [
          pdf(
            `invoice-${number}.pdf`,
            `Invoice ${number}`,
            'Mooring lines, 4 at 120.00',
            'Please note our new bank account.',
            'The old one is closed.',
          ),
        ],
      }
    },
  },
  {
    name: 'colleague',
    weight: 7,
    wanted: everyone,
    make(r, n) {
      const from = r.pick(PEOPLE.filter(p => p.department !== null))
      const number = `${r.pick(['SX', 'RK'])}${r.between(1_000_000, 9_999_999)}`
      const passport = r.chance(0.15)
      return {
        from: { name: from.name, address: addressOf(from) },
        to: to(
          r.pick(PEOPLE.filter(p => p !== from)),
          ...(r.chance(0.4) ? [r.pick(peopleOf('accounts').filter(p => p !== from))] : []),
        ).filter((a, i, all) => all.indexOf(a) === i),
        authentication: 'none',
        inside: true,
        subject: passport
          ? 'Crew papers, second attempt'
          : r.pick([`Minutes of week ${1 + (n % 52)}`, 'Lamps of the pump house', 'Who takes Saturday?', 'Lunch at the pilots']),
        text: passport
          ? `Hello,\n\nthe master's passport is ${number}. Can you put it on the list?\n\n${from.name}`
          : `Hello,\n\n${r.pick(SMALL_TALK)}\n\n${from.name}`,
      }
    },
  },
  {
    name: 'anchor chain',
    weight: 7,
    wanted: nobody,
    make(r) {
      return {
        from: { name: 'Anchor chain bargains', address: r.pick(['promo@chain-bargains.test', 'deal@mail.chain-bargains.test']) },
        to: one(r, r.pick(['berthing', 'patrol', 'pilotage'])),
        authentication: r.chance(0.6) ? 'pass' : 'none',
        subject: `Anchor chain −${r.between(5, 8)}0 %, today only`,
        text: `Galvanised anchor chain, today only at −70 %. Free shackle with every order.\n\nhttps://chain-bargains.test/deal`,
        html: '<p>Galvanised <b>anchor chain</b>, today only at −70 %.</p><p style="color:#ffffff">harbour pilot tide table '
          + 'newsletter</p><p><a href="https://chain-bargains.test/deal">To the deal</a></p>',
      }
    },
  },
  {
    name: 'berth shares',
    weight: 7,
    wanted: nobody,
    make(r) {
      return {
        from: { name: 'Berth Shares Club', address: r.pick(['club@berth-shares.test', 'invest@quay-coin.test']) },
        to: [addressOf(r.pick(PEOPLE))],
        authentication: 'pass',
        subject: r.pick(['Own a part of the quay', 'Berth shares: +40 % a month', 'Your berth shares are reserved']),
        text: 'Own a part of the quay! Berth shares grow by 40 % a month. Guaranteed return, paid in '
          + 'coins.\n\nhttps://berth-shares.test/join',
      }
    },
  },
  {
    name: 'grain speculator',
    weight: 7,
    wanted: nobody,
    make(r, n) {
      return {
        from: {
          name: 'Grain Outlook Weekly',
          address: `${r.pick(['desk', 'outlook', `n${n}`])}@${r.pick(['grain-outlook.test', 'wheat-desk.test', 'a.grain-outlook.test'])}`,
        },
        to: [addressOf(r.pick(PEOPLE))],
        authentication: r.chance(0.7) ? 'pass' : 'none',
        subject: r.pick(['Your position in wheat futures', 'Wheat will double', 'Grain outlook, last seats']),
        text: 'Wheat futures will double before spring. Our desk has three seats left. Reply with the word SEAT.',
      }
    },
  },
]
