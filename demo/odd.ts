import { zipSync } from 'fflate'
import type { DemoMail } from './compose'
import { addressOf, OWN_DOMAIN, peopleOf } from './world'

/** Mail of odd shapes, with whether it is wanted: what other readers show of it, and what they do not. */
export interface OddMail {
  mail: DemoMail
  wanted: boolean
}

const at = (mailbox: string) => [`${mailbox}@${OWN_DOMAIN}`]
const first = (department: string) => [addressOf(peopleOf(department)[0]!)]
const forger = (name: string) => ({ name, address: 'desk@northquay-freight.test' })

/**
 * A message each: broken structure, hidden words, an attached message, several senders, a program in an archive, a link and a name that say
 * another thing than they are. */
export function oddMail(): OddMail[] {
  return [
    {
      wanted: false,
      mail: {
        from: forger('Northquay Freight Desk'),
        to: at('oskar.brandt'),
        authentication: 'none',
        subject: 'Container 4471: last day',
        text: '',
        as: {
          type: 'multipart/mixed; boundary="=_never"',
          encoding: null,
          body: 'Dear customer,\r\n\r\nyour container is held. The release fee of 340.00 is due within 24 hours.\r\n\r\nNorthquay Freight',
        },
      },
    },
    {
      wanted: false,
      mail: {
        from: forger('Release desk'),
        to: first('accounts'),
        authentication: 'none',
        subject: 'Held at the gate',
        text: '',
        html: '<p>Your box is held. Pay the re<span style="display:none">tide table</span>lease&nbsp;fee today.</p><p '
          + 'style="color:#fefefe">Notice: tide table, dredging, pilot roster, berth request, harbour office</p>',
      },
    },
    {
      wanted: false,
      mail: {
        from: forger('Freight release'),
        to: at('bookings'),
        authentication: 'none',
        subject: 'Two ways to read this',
        text: 'Please settle the release fee by the link below, within 24 hours.',
        html: '<p>Thank you for your booking. We look forward to seeing you.</p>',
      },
    },
    {
      wanted: true,
      mail: {
        from: { name: 'Pia Lindqvist', address: 'ops@northwall-shipping.example' },
        to: first('berthing'),
        authentication: 'pass',
        subject: 'Fwd: what the owners wrote',
        text: '',
        as: {
          type: 'multipart/mixed; boundary="=_forwarded"',
          encoding: null,
          body: [
            '--=_forwarded',
            'Content-Type: text/plain; charset=utf-8',
            '',
            'Please see the attached message from the owners, with the plan of the quay.',
            '',
            'Pia',
            '--=_forwarded',
            'Content-Type: message/rfc822',
            'Content-Disposition: attachment',
            '',
            'From: "Owners’ office" <owners@tern-sound-owners.example>',
            'To: ops@northwall-shipping.example',
            'Subject: Plan of the north quay',
            'MIME-Version: 1.0',
            'Content-Type: multipart/mixed; boundary="=_inner"',
            '',
            '--=_inner',
            'Content-Type: text/plain; charset=utf-8',
            '',
            'The bollards on the north quay are marked on the plan. Draught at low water 6.2 m.',
            '--=_inner',
            'Content-Type: text/csv; name="bollards.csv"',
            'Content-Disposition: attachment; filename="bollards.csv"',
            '',
            'bollard,metres',
            '12,4.5',
            '--=_inner--',
            '--=_forwarded--',
            '',
          ].join('\r\n'),
        },
      },
    },
    {
      wanted: false,
      mail: {
        from: { name: 'Harbour accounts', address: `accounts@${OWN_DOMAIN}> <pay@northquay-freight.test` },
        mailFrom: 'pay@northquay-freight.test',
        to: at('oskar.brandt'),
        authentication: 'none',
        subject: 'Changed account for berth dues',
        text: 'Dear Oskar,\n\nplease use the new account for the berth dues from today.\n\nHarbour accounts',
      },
    },
    {
      wanted: false,
      mail: {
        from: forger('Scanned papers'),
        to: at('patrol'),
        authentication: 'none',
        subject: 'Papers of MV Hald Bay',
        text: 'The papers are in the archive.',
        attachments: [
          {
            name: 'papers.zip',
            type: 'application/zip',
            bytes: zipSync(
              { 'papers/manifest.pdf.exe': new TextEncoder().encode('no program, only its name') },
              { mtime: new Date(2026, 0, 1) },
            ),
          },
        ],
      },
    },
    {
      wanted: false,
      mail: {
        from: forger('Berth dues'),
        to: at('oskar.brandt'),
        authentication: 'none',
        subject: 'Your berth dues, to be looked at',
        text: '',
        html: '<p>The notice is at <a href="https://pay.northquay-freight.test/notice?berth=12">www.saltmere-harbour.example/dues</a>; '
          + 'the paper is attached.</p>',
        // A character turns the end of the name round: it is shown as "notice_exe.pdf" elsewhere.
        attachments: [
          { name: 'notice_\u202Efdp.exe', type: 'application/octet-stream', bytes: new TextEncoder().encode('no program, only its name') },
        ],
      },
    },
  ]
}
