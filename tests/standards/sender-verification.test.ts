// Senders verified here and by dkimpy and pyspf (Debian's python3-dkim, python3-spf) from one zone, which dnspython reads as another
// reader of master files: generated messages, signed by either side, with faults put in.
import { execFileSync } from 'node:child_process'
import { generateKeyPairSync, type KeyObject } from 'node:crypto'
import { dkimSign } from 'mailauth/lib/dkim/sign.js'
import { beforeAll, describe, expect, it } from 'vitest'
import { readZone, verifySender, zoneResolver, type Resolve } from '#core/verification'
import { Random } from '../../demo'

const random = new Random(31)
const COUNT = 200
const many = <T>(count: number, make: (i: number) => T): T[] => Array.from({ length: count }, (_, i) => make(i))
const b64 = (text: string) => Buffer.from(text, 'latin1').toString('base64')

const rsa = generateKeyPairSync('rsa', { modulusLength: 1024 })
const ed = generateKeyPairSync('ed25519')
const spki = (key: KeyObject) => key.export({ type: 'spki', format: 'der' })
/** RFC 8463 4: the bare key, which is the end of its DER form. */
const edPublic = spki(ed.publicKey).subarray(-32).toString('base64')
const edSeed = ed.privateKey.export({ type: 'pkcs8', format: 'der' }).subarray(-32).toString('base64')
const rsaPublic = spki(rsa.publicKey).toString('base64')
const pem = rsa.privateKey.export({ type: 'pkcs1', format: 'pem' }).toString()

const strings = (text: string) => (text.match(/.{1,200}/g) ?? []).map(s => `"${s}"`).join(' ')
const DOMAINS = ['quayline.example', 'mail.quayline.example', 'tide-survey.example'] as const
const ZONE = `$TTL 300
${DOMAINS.map(d => `$ORIGIN ${d}.
rsa._domainkey TXT ( ${strings(`v=DKIM1; k=rsa; p=${rsaPublic}`)} )
ed._domainkey TXT "v=DKIM1; k=ed25519; p=${edPublic}"
revoked._domainkey TXT "v=DKIM1; k=rsa; p="
notkey._domainkey TXT "v=DKIM1; k=rsa; p=AAAA"
exact._domainkey TXT ( ${strings(`v=DKIM1; t=s; k=rsa; p=${rsaPublic}`)} )
`).join('')}
`

interface Made {
  message: string
  domain: string
  selector: string
  algorithm: 'rsa-sha256' | 'ed25519-sha256'
  canonical: string
  length: boolean
  headers: string[] | null
}

const WORDS = ['tide', 'berth ', ' quay', 'Größe', '\t', '  ', 'fee.', '=20', 'x']
const line = () => many(random.between(0, 9), () => random.pick(WORDS)).join(' ')
const bytesOf = (text: string) => Buffer.from(text, 'utf8').toString('latin1')

function made(): Made {
  const body = bytesOf(many(random.between(0, 6), line).join('\r\n') + random.pick(['', '\r\n', '\r\n\r\n\r\n']))
  const header = [
    `From: ${random.pick(['"Ada Quay" <ada@quayline.example>', 'ada@quayline.example', 'Ada\r\n <ada@quayline.example>'])}`,
    'To: oskar@saltmere-harbour.example',
    `Subject: ${random.pick(['Berth 4', 'Berth  4\t ', 'Berth\r\n  four'])}`,
    'Date: Tue, 24 Nov 2026 09:00:00 +0000',
    `Message-ID: <${random.between(1, 99999)}@quayline.example>`,
    ...(random.chance(0.3) ? ['List-Id: <berths.quayline.example>'] : []),
  ]
  const algorithm = random.pick(['rsa-sha256', 'ed25519-sha256'] as const)
  return {
    // Lines are ended, as SMTP hands them over: of a last line without an end dkimpy keeps the blanks, against RFC 6376 3.4.4.
    message: `${header.join('\r\n')}\r\n\r\n${body}${body === '' ? '' : '\r\n'}`,
    domain: random.pick(DOMAINS),
    selector: algorithm === 'rsa-sha256' ? random.pick(['rsa', 'rsa', 'exact']) : 'ed',
    algorithm,
    canonical: `${random.pick(['simple', 'relaxed'])}/${random.pick(['simple', 'relaxed'])}`,
    length: random.chance(0.15) && body.trim().length > 10,
    headers: random.chance(0.3) ? ['from', 'subject', 'to', 'from'] : null,
  }
}

/** A change to a signed message. */
interface Fault {
  name: string
  put: (message: string) => string
}
const tag = (name: string, put: (value: string) => string) => (message: string) =>
  message.replace(new RegExp(`([;\\s]${name}=)([^;]*)`), (_, begin: string, value: string) => begin + put(value))
const FAULTS: Fault[] = [
  { name: 'none', put: m => m },
  { name: 'a letter of the body', put: m => m.replace(/(\r\n\r\n)([\s\S])?/, '$1Z$2') },
  { name: 'a letter of the subject', put: m => m.replace('Berth', 'Bertha') },
  { name: 'blanks at the end of lines', put: m => m.replace(/\r\n\r\n([\s\S]*)$/, (_, b: string) => `\r\n\r\n${b.replace(/\r\n/g, ' \r\n')}`) },
  { name: 'empty lines at the end', put: m => `${m}\r\n\r\n` },
  { name: 'text after the end', put: m => `${m}\r\nmore\r\n` },
  { name: 'the case of a name', put: m => m.replace('\r\nTo:', '\r\nTO:') },
  { name: 'a field folded', put: m => m.replace('To: ', 'To:\r\n ') },
  { name: 'a field on top', put: m => `Received: from relay.example\r\n${m}` },
  { name: 'a second Subject on top', put: m => `Subject: Other\r\n${m}` },
  { name: 'a field taken out', put: m => m.replace(/\r\nSubject: .*(?:\r\n .*)?/, '') },
  { name: 'another selector', put: tag('s', () => 'missing') },
  { name: 'a revoked key', put: tag('s', () => 'revoked') },
  { name: 'a key that is none', put: tag('s', () => 'notkey') },
  { name: 'another domain', put: tag('d', () => 'other.example') },
  { name: 'another version', put: tag('v', () => '2') },
  { name: 'an unknown algorithm', put: tag('a', () => 'rsa-md5') },
  { name: 'an identity outside', put: tag('d', v => `${v}; i=@other.example`) },
  { name: 'a signature cut', put: m => m.replace(/([;\s]b=)\s*[\w+/]{8}/, '$1') },
  { name: 'a body hash of another', put: tag('bh', () => 'AAAA') },
  { name: 'without its headers', put: tag('h', () => '') },
  { name: 'a tag twice', put: tag('d', v => `${v}; d=${v}`) },
  { name: 'an unknown tag', put: tag('d', v => `${v}; zz=1`) },
]

function python(asked: object): { signed: string[], sealed: string[], verified: boolean[][], arc: string[], spf: string[] } {
  const keys = { 'rsa-sha256': pem, 'ed25519-sha256': edSeed }
  const input = JSON.stringify({ zone: ZONE, keys, ...asked })
  const file = new URL('data/verify_senders.py', import.meta.url).pathname
  return JSON.parse(execFileSync('/usr/bin/python3', [file], { input, encoding: 'utf8', maxBuffer: 1e8 })) as ReturnType<typeof python>
}

const dns = (zone: string): { policy: Resolve, others: Resolve } => {
  const resolve = zoneResolver(readZone(zone))
  return { policy: resolve, others: resolve }
}

async function ours(message: string, zone = ZONE) {
  const bytes = Buffer.from(message, 'latin1')
  const asked = { bytes, mailFrom: null, helo: null, client: null, receivedAt: '2026-11-24T09:00:00Z' }
  const { authentication } = await verifySender(asked, dns(zone))
  return authentication.found!
}

async function signedByUs(m: Made): Promise<string> {
  const { signatures, errors } = await dkimSign(Buffer.from(m.message, 'latin1'), {
    headerList: m.headers ?? undefined,
    // Without one it is taken twice, and a signature at the turn of a second is wrong.
    signTime: new Date('2026-11-24T08:59:00Z'),
    signatureData: [
      {
        signingDomain: m.domain,
        selector: m.selector,
        privateKey: m.algorithm === 'rsa-sha256' ? pem : ed.privateKey.export({ type: 'pkcs8', format: 'pem' }),
        algorithm: m.algorithm,
        canonicalization: m.canonical,
        ...(m.length ? { maxBodyLength: 4 } : {}),
      },
    ],
  } as never)
  expect(errors).toEqual([])
  return signatures + m.message
}

describe('DKIM (RFC 6376, 8463): a forged sender would be verified, or an honest one would not', () => {
  const messages = many(COUNT, made)
  let theirs: string[]
  let mine: string[]
  beforeAll(async () => {
    const made = python({ sign: messages.map(m => ({ ...m, message: b64(m.message) })) })
    theirs = made.signed.map(m => Buffer.from(m, 'base64').toString('latin1'))
    mine = []
    for (const m of messages) mine.push(await signedByUs(m))
  })

  it('what dkimpy signed is verified, unless it covers only part of the body', async () => {
    for (const [i, message] of theirs.entries()) {
      const { dkim } = await ours(message)
      const partly = messages[i]!.length && dkim[0]!.reason?.includes('only part')
      const { domain, selector } = messages[i]!
      expect([i, dkim[0]]).toMatchObject([i, { result: partly ? 'policy' : 'pass', domain, selector }])
    }
  })
  it('what we signed is verified by dkimpy', () => {
    const verdicts = python({ verify: mine.map(b64) }).verified
    expect(mine.filter((_, i) => verdicts[i]![0] !== true)).toEqual([])
  })
  it('with faults put in, both say the same', async () => {
    const faulty = [...theirs, ...mine].flatMap((message, i) => {
      const fault = FAULTS[i % FAULTS.length]!
      return messages[i % COUNT]!.length ? [] : [{ fault, message: fault.put(message) }]
    })
    const verdicts = python({ verify: faulty.map(f => b64(f.message)) }).verified
    const differ: unknown[] = []
    for (const [i, { fault, message }] of faulty.entries()) {
      const { dkim } = await ours(message)
      const us = dkim.map(s => s.result === 'pass')
      const shown = [fault.name, us, verdicts[i], dkim[0]?.reason, message.slice(0, 700)]
      if (JSON.stringify(us) !== JSON.stringify(verdicts[i])) differ.push(shown)
    }
    expect(differ).toEqual([])
  })
})

describe('RFC 8463 appendix A (from memory: the signatures are right only if they were recalled to the letter)', () => {
  const zone = `$ORIGIN football.example.com.
brisbane._domainkey TXT "v=DKIM1; k=ed25519; p=11qYAYKxCrfVS/7TyWQHOg7hcvPapiMlrwIaaPcHURo="
test._domainkey TXT ( ${strings(
  'v=DKIM1; k=rsa; p=MIGfMA0GCSqGSIb3DQEBAQUAA4GNADCBiQKBgQDkHlOQoBTzWRiGs5V6NpP3idY6Wk08a5qhdR6wy5bdOKb2jLQiY/J16JYi0Qvx/byYzCNb3W91y3FutACDfzwQ/BC/e/8uBsCR+yz1Lxj+PL6lHvqMKrM3rG4hstT5QjvHO9PzoxZyVYLzBfO2EeC3Ip3G+2kryOTIKT+l/K4w3QIDAQAB',
)} )
`
  const message = `DKIM-Signature: v=1; a=ed25519-sha256; c=relaxed/relaxed;
 d=football.example.com; i=@football.example.com;
 q=dns/txt; s=brisbane; t=1528637909; h=from : to :
 subject : date : message-id : from : subject : date;
 bh=2jUSOH9NhtVGCQWNr9BrIAPreKQjO6Sn7XIkfJVOzv8=;
 b=/gCrinpcQOoIfuHNQIbq4pgh9kyIK3AQUdt9OdqQehSwhEIug4D11Bus
 Fa3bT3FY5OsU7ZbnKELq+eXdp1Q1Dw==
DKIM-Signature: v=1; a=rsa-sha256; c=relaxed/relaxed;
 d=football.example.com; i=@football.example.com;
 q=dns/txt; s=test; t=1528637909; h=from : to : subject :
 date : message-id : from : subject : date;
 bh=2jUSOH9NhtVGCQWNr9BrIAPreKQjO6Sn7XIkfJVOzv8=;
 b=F45dVWDfMbQDGHJFlXUNB2HKfbCeLRyhDXgFpEL8GwpsRe0IeIixNTe3
 DhCVlUrSjV4BwcVcOF6+FF3Zo9Rpo1tFOeS9mPYQTnGdaSGsgeefOsk2Jz
 dA+L10TeYt9BgDfQNZtKdN1WO//KgIqXP7OdEFE4LjFYNcUxZQ4FADY+8=
From: Joe SixPack <joe@football.example.com>
To: Suzie Q <suzie@shopping.example.net>
Subject: Is dinner ready?
Date: Fri, 11 Jul 2003 21:00:37 -0700 (PDT)
Message-ID: <20030712040037.46341.5F8J@football.example.com>

Hi.

We lost the game.  Are you hungry yet?

Joe.
`.replace(/\n/g, '\r\n')

  it('both signatures are verified, and with one letter changed neither is', async () => {
    const results = async (text: string) => (await ours(text, zone)).dkim.map(s => [s.selector, s.result])
    expect(await results(message)).toEqual([['brisbane', 'pass'], ['test', 'pass']])
    expect(await results(message.replace('hungry', 'angry!'))).toEqual([['brisbane', 'fail'], ['test', 'fail']])
  })
})

describe('ARC (RFC 8617): evidence of a mailing list would be taken for true, or lost', () => {
  it('chains by dkimpy, with faults put in, are judged as it judges them', async () => {
    const plain = many(30, made).map(m => `Authentication-Results: tide-survey.example; spf=pass smtp.mailfrom=quayline.example\r\n${m.message}`)
    const once = python({ seal: plain.map(m => ({ message: b64(m), selector: 'rsa', domain: 'tide-survey.example' })) }).sealed
    const next = once.map(m =>
      `Authentication-Results: quayline.example; arc=pass; dkim=fail\r\n${Buffer.from(m, 'base64').toString('latin1')}`)
    const twice = python({ seal: next.map(m => ({ message: b64(m), selector: 'rsa', domain: 'quayline.example' })) }).sealed
    const faults: ((m: string) => string)[] = [
      m => m,
      m => m.replace('Berth', 'Bertha'),
      m => `${m}more\r\n`,
      m => m.replace(/i=1;/, 'i=3;'),
      m => m.replace(/ARC-Seal: [\s\S]*?\r\n(?! )/, ''),
      m => m.replace('cv=none', 'cv=pass'),
      m => m.replace('spf=pass', 'spf=fail'),
    ]
    const chains = [...once, ...twice].map((m, i) => faults[i % faults.length]!(Buffer.from(m, 'base64').toString('latin1')))
    const verdicts = python({ arc: chains.map(b64) }).arc
    for (const [i, chain] of chains.entries()) {
      const { arc } = await ours(chain)
      expect([i, arc.result, arc.reason]).toEqual([i, verdicts[i], arc.reason])
    }
    expect(new Set(verdicts)).toEqual(new Set(['pass', 'fail']))
  })
})

describe('SPF (RFC 7208): a forged envelope would pass, or an honest one fail', () => {
  const MECHANISMS = [
    'ip4:192.0.2.10', 'ip4:192.0.2.0/28', 'ip6:2001:db8::/64', 'a', 'a/28', 'a:mx1.hosts.example', 'mx', 'mx/30', 'mx:hosts.example//64',
    'include:plain.example', 'include:none.example', 'include:loop0.example', 'exists:%{ir}.list.example', 'exists:%{l}.%{d}', 'exists:%{i}._x.%{d2}',
    'exists:%{o}', 'ptr:hosts.example', 'a:missing.example', 'exists:%{d1r}.list.example', 'ip4:192.0.2.999', 'unknown:x', 'exists:%{x}.example',
    'a:%{h}', 'include:dmacro.example', 'exists:%{v}.list.example',
  ]
  const zone = `$TTL 60
plain.example. TXT "v=spf1 ip4:192.0.2.16/28 -all"
none.example. TXT "no policy"
loop0.example. TXT "v=spf1 include:loop0.example -all"
dmacro.example. TXT "v=spf1 exists:in.%{d} -all"
in.dmacro.example. A 127.0.0.2
two.example. TXT "v=spf1 -all"
two.example. TXT "v=spf1 +all"
long.example. TXT "v=spf1 ip4:192.0.2.10 " "ip4:192.0.2.11 -all"
hosts.example. MX 10 mx1.hosts.example.
hosts.example. MX 20 mx2.hosts.example.
mx1.hosts.example. A 192.0.2.10
mx2.hosts.example. A 192.0.2.20
mx1.hosts.example. AAAA 2001:db8:2::10
mx2.hosts.example. AAAA 2001:db8::20
10.2.0.192.in-addr.arpa. PTR mx1.hosts.example.
20.2.0.192.in-addr.arpa. PTR forged.hosts.example.
10.2.0.192.list.example. A 127.0.0.2
in-addr.list.example. A 127.0.0.2
many.example. MX ${[...Array(11).keys()].map(i => `10 m${i}.hosts.example.`).join('\nmany.example. MX ')}
manymx.example. TXT "v=spf1 mx:many.example -all"
voids.example. TXT "v=spf1 a:v1.example a:v2.example a:v3.example +all"
ten.example. TXT "v=spf1 ${[...Array(10).keys()].map(i => `exists:mx${1 + (i % 2)}.no.example`).slice(0, 2).join(' ')} ${'a:mx1.hosts.example '.repeat(9)} +all"
redirects.example. TXT "v=spf1 redirect=plain.example"
redirected.example. TXT "v=spf1 redirect=none.example"
twice.example. TXT "v=spf1 redirect=plain.example redirect=plain.example"
exp.example. TXT "v=spf1 -all exp=why.example"
upper.example. TXT "V=SPF1 IP4:192.0.2.10 -ALL"
${many(60, (i) => {
  const terms = many(random.between(1, 4), () => `${random.pick(['', '', '-', '~', '?'])}${random.pick(MECHANISMS)}`)
  return `d${i}.example. TXT "v=spf1 ${terms.join(' ')} ${random.pick(['-all', '~all', '?all', '', 'redirect=plain.example'])}"
d${i}.example. A 192.0.2.${random.between(8, 24)}
d${i}.example. AAAA 2001:db8:3::${i}
d${i}.example. MX 5 mx1.hosts.example.
ada.d${i}.example. A 127.0.0.2`
}).join('\n')}
`
  const FIXED = ['plain', 'none', 'loop0', 'dmacro', 'two', 'long', 'manymx', 'voids', 'ten', 'redirects', 'redirected', 'twice', 'exp', 'upper', 'missing']
  const CLIENTS = ['192.0.2.10', '192.0.2.17', '192.0.2.20', '198.51.100.1', '2001:db8::20', '2001:db8:1::1']
  const queries = [
    ...FIXED.flatMap(name => CLIENTS.map(ip => ({ ip, sender: `ada@${name}.example`, helo: 'mx1.hosts.example' }))),
    ...many(240, i => ({ ip: random.pick(CLIENTS), sender: `${random.pick(['ada', 'mx1'])}@d${i % 60}.example`, helo: 'mx1.hosts.example' })),
    { ip: '192.0.2.17', sender: '', helo: 'plain.example' },
    { ip: '192.0.2.1', sender: '', helo: 'plain.example' },
  ]

  it('records of every kind are evaluated as pyspf evaluates them', async () => {
    const theirs = python({ zone, spf: queries }).spf
    const differ: unknown[] = []
    for (const [i, { ip, sender, helo }] of queries.entries()) {
      const asked = { bytes: new Uint8Array(), mailFrom: sender, helo, client: ip, receivedAt: '2026-11-24T09:00:00Z' }
      const { authentication } = await verifySender(asked, dns(zone))
      const { result, domain } = authentication.found!.spf
      if (result !== theirs[i]) differ.push([ip, sender, 'we', result, 'pyspf', theirs[i], zone.split('\n').find(l => l.startsWith(`${domain}. TXT`))])
    }
    expect(differ).toEqual([])
    expect(new Set(theirs)).toEqual(new Set(['pass', 'fail', 'softfail', 'neutral', 'none', 'permerror']))
  })
})

// From memory, its names as they are there.
describe('RFC 7208 appendix A', () => {
  const ZONE_A = `$TTL 60
$ORIGIN example.com.
@ MX 10 mail-a
@ MX 20 mail-b
@ A 192.0.2.10
@ A 192.0.2.11
amy A 192.0.2.65
bob A 192.0.2.66
mail-a A 192.0.2.129
mail-b A 192.0.2.130
www CNAME example.com.
$ORIGIN example.org.
@ MX 10 mail-c
mail-c A 192.0.2.140
$ORIGIN 2.0.192.in-addr.arpa.
10 PTR example.com.
11 PTR example.com.
65 PTR amy.example.com.
66 PTR bob.example.com.
129 PTR mail-a.example.com.
130 PTR mail-b.example.com.
140 PTR mail-c.example.org.
$ORIGIN 0.0.10.in-addr.arpa.
4 PTR bob.example.com.
`
  it.each<[record: string, passes: string[], fails: string[]]>([
    ['+all', ['192.0.2.65', '10.0.0.4'], []],
    ['a -all', ['192.0.2.10', '192.0.2.11'], ['192.0.2.65']],
    ['a:example.org -all', [], ['192.0.2.10', '192.0.2.140']],
    ['mx -all', ['192.0.2.129', '192.0.2.130'], ['192.0.2.10', '192.0.2.140']],
    ['mx:example.org -all', ['192.0.2.140'], ['192.0.2.129']],
    ['mx mx:example.org -all', ['192.0.2.129', '192.0.2.130', '192.0.2.140'], ['192.0.2.65']],
    ['mx/30 mx:example.org/30 -all', ['192.0.2.131', '192.0.2.143'], ['192.0.2.132']],
    ['ptr -all', ['192.0.2.10', '192.0.2.65'], ['192.0.2.140', '10.0.0.4']],
    ['ip4:192.0.2.128/28 -all', ['192.0.2.129'], ['192.0.2.65']],
  ])('“v=spf1 %s”', async (record, passes, fails) => {
    const spfOf = async (client: string) => {
      const asked = { bytes: new Uint8Array(), mailFrom: 'x@example.com', helo: 'x.example.com', client, receivedAt: '2026-11-24T09:00:00Z' }
      return (await verifySender(asked, dns(`${ZONE_A}example.com. TXT "v=spf1 ${record}"\n`))).authentication.found!.spf.result
    }
    for (const client of passes) expect([client, await spfOf(client)]).toEqual([client, 'pass'])
    for (const client of fails) expect([client, await spfOf(client)]).toEqual([client, 'fail'])
  })
})
