import { generateKeyPairSync } from 'node:crypto'
import { domainToASCII } from 'node:url'
import { dkimSign } from 'mailauth/lib/dkim/sign.js'
import { describe, expect, it } from 'vitest'
import { forSenderOf, parseContent } from '#core'
import { DnsError, LookUps, readZone, verifySender, zoneResolver, type Resolve } from '#core/verification'

const NOW = '2026-11-24T09:00:00Z'
const HEAD = 'From: ada@quayline.example\r\nSubject: Berth 4\r\nDate: Tue, 24 Nov 2026 08:59:00 +0000\r\n'
const rsa = generateKeyPairSync('rsa', { modulusLength: 1024 })
const pem = rsa.privateKey.export({ type: 'pkcs8', format: 'pem' }).toString()
const publicKey = rsa.publicKey.export({ type: 'spki', format: 'der' }).toString('base64')
const strings = (text: string) => (text.match(/.{1,200}/g) ?? []).map(s => `"${s}"`).join(' ')
const KEY = `s1._domainkey.quayline.example. TXT ( ${strings(`v=DKIM1; k=rsa; p=${publicKey}`)} )\n`

async function signed(message: string, more: object = {}, expires?: Date): Promise<string> {
  const { signatures } = await dkimSign(Buffer.from(message, 'latin1'), {
    signTime: new Date(NOW),
    expires,
    signatureData: [{ signingDomain: 'quayline.example', selector: 's1', privateKey: pem, algorithm: 'rsa-sha256', ...more }],
  } as never)
  return signatures + message
}

interface How { zone?: string, resolve?: Resolve, mailFrom?: string, helo?: string, client?: string | null, now?: string }

async function verified(message: string, { zone = KEY, resolve = zoneResolver(readZone(zone)), ...how }: How = {}) {
  const { mailFrom = null, helo = null, client = '192.0.2.25', now = NOW } = how
  const bytes = Buffer.from(message, 'latin1')
  const result = await verifySender({ bytes, mailFrom, helo, client, receivedAt: now }, { policy: resolve, others: resolve })
  const { authentication, ...rest } = result
  return { ...rest, ...authentication, ...authentication.found! }
}

const silent: Resolve = (name, type) => Promise.reject(new DnsError('ETIMEOUT', `${name} ${type}`))

describe('a signature that covers less than it seems to: someone else’s text would be taken for the sender’s', () => {
  it('text added after a length limit (RFC 6376 8.2)', async () => {
    const message = await signed(`${HEAD}\r\nPay by Friday.\r\n`, { maxBodyLength: 4 })
    expect(await verified(`${message}To my account instead.\r\n`)).toMatchObject({
      verdict: 'none',
      dkim: [{ result: 'policy', reason: expect.stringContaining('only part of the body') }],
    })
  })
  it('a second From, shown by some readers, makes nobody verified', async () => {
    const message = await signed(`${HEAD}\r\nHello\r\n`)
    expect((await verified(message)).verdict).toBe('pass')
    expect(await verified(`From: chief@saltmere-harbour.example\r\n${message}`)).toMatchObject({ verdict: 'none', dmarc: { domain: null } })
    expect((await verified(message.replace('From: ada@quayline.example', 'From: chief@saltmere-harbour.example'))).verdict).not.toBe('pass')
  })
  it.each([
    ['without From among what it covers', (m: string) => m.replace(/h=[^;]*/, 'h=Subject:Date'), 'does not cover From'],
    ['by SHA-1', (m: string) => m.replace('rsa-sha256', 'rsa-sha1'), 'SHA-1'],
    ['for an identity of another domain', (m: string) => m.replace('d=quayline.example', 'd=quayline.example; i=@other.example'), 'i='],
    ['with a tag twice', (m: string) => m.replace('d=quayline.example', 'd=quayline.example; d=other.example'), 'list of tags'],
    ['without a value', (m: string) => m.replace(/\bb=[\s\S]*?\r\nFrom/, 'b=\r\nFrom'), 'b= is missing'],
  ])('a signature %s', async (_, put, reason) => {
    const found = await verified(put(await signed(`${HEAD}\r\nHello\r\n`)))
    expect(found).toMatchObject({ verdict: 'none', dkim: [{ result: 'permerror', reason: expect.stringContaining(reason) }] })
  })
  it.each([
    ['for testing', 't=y; ', 'policy'],
    ['for another service', 's=tlsrpt; ', 'permerror'],
    ['for SHA-1 only', 'h=sha1; ', 'permerror'],
    ['of another version', '', 'permerror'],
  ])('a key %s', async (name, tag, result) => {
    const version = name.includes('version') ? 'DKIM2' : 'DKIM1'
    const zone = KEY.replace('v=DKIM1; ', `v=${version}; ${tag}`)
    expect(await verified(await signed(`${HEAD}\r\nHello\r\n`), { zone })).toMatchObject({ verdict: 'none', dkim: [{ result }] })
  })
  // A resolver in C takes a name to end at NUL: asked for "own.test\0._domainkey.quayline.example" it would ask for own.test.
  it('a selector that would make the resolver ask elsewhere, or nowhere: the name is not asked for', async () => {
    const asked: string[] = []
    const zone = zoneResolver(readZone(`${KEY}_dmarc.quayline.example. TXT "v=DMARC1; p=reject"\n`))
    const resolve: Resolve = (name, type) => {
      asked.push(name)
      return zone(name, type)
    }
    for (const selector of ['own.test\0', 'a b', 'a\\', 'a@b', 's1.', '.s1', '\xe9'])
      expect(await verified((await signed(`${HEAD}\r\nHello\r\n`)).replace('s=s1', `s=${selector}`), { resolve }), selector).toMatchObject({
        verdict: 'fail',
        dkim: [{ result: 'permerror' }],
      })
    expect(asked.filter(name => !name.startsWith('_dmarc'))).toEqual([])
    for (const name of ['own.test\0.quayline.example', 'a b.example', 'a\\.example', 'a..example', `${'a'.repeat(64)}.example`, '', '\xe9.example'])
      await expect(new LookUps(resolve).ask(name, 'TXT')).rejects.toMatchObject({ code: 'ENOTFOUND' })
    expect(asked.filter(name => !name.startsWith('_dmarc'))).toEqual([])
  })
  it('a From domain whose bytes spell another domain in another character set', async () => {
    const utf8 = (text: string) => Buffer.from(text).toString('latin1')
    // "ê" as two bytes of Latin-1 is "Ãª", which is "ãa" as a domain.
    const look = domainToASCII('fãatre.example')
    const message = await signed(utf8('From: ada@fêtre.example\r\n\r\nHello\r\n'), { signingDomain: look })
    const zone = KEY.replaceAll('quayline.example', look)
    expect(await verified(message, { zone })).toMatchObject({ verdict: 'none', dkim: [{ result: 'pass', aligned: false }], dmarc: { domain: domainToASCII('fêtre.example') } })
    const latin1 = await signed('From: ada@f\xeatre.example\r\n\r\nHello\r\n')
    expect(await verified(latin1)).toMatchObject({ verdict: 'none', dmarc: { domain: null } })
  })
  it('a header that verifying reads in another way than the facts: nobody is verified', async () => {
    const { authentication } = await verifySender(
      { bytes: Buffer.from(await signed(`${HEAD}\r\nHello\r\n`)), mailFrom: null, helo: null, client: null, receivedAt: NOW },
      { policy: zoneResolver(readZone(KEY)), others: zoneResolver(readZone(KEY)) },
    )
    const factsOf = (text: string) => parseContent(Buffer.from(text))
    expect(forSenderOf(await factsOf(HEAD), authentication)).toBe(authentication)
    for (const other of [HEAD.replaceAll('quayline', 'saltmere'), `${HEAD}From: b@quayline.example\r\n`, 'Subject: x\r\n', HEAD.replace('ada', 'a@b.test, ada')])
      expect(forSenderOf(await factsOf(other), authentication)).toMatchObject({ verdict: 'none', found: { dmarc: { domain: null }, dkim: [{ aligned: false }] } })
  })
  it('an expired one, by the clock of receipt and not by that of now', async () => {
    const message = await signed(`${HEAD}\r\nHello\r\n`, {}, new Date('2026-11-25T00:00:00Z'))
    expect((await verified(message)).verdict).toBe('pass')
    expect((await verified(message, { now: '2026-11-26T00:00:00Z' })).dkim).toMatchObject([{ result: 'fail' }])
  })
  it('an unsigned Return-Path, and Authentication-Results under our name, say nothing', async () => {
    const forged = `Return-Path: <ada@quayline.example>\r\nAuthentication-Results: sober-gate; dmarc=pass header.from=quayline.example\r\n${HEAD}\r\nHello\r\n`
    expect(await verified(forged)).toMatchObject({ verdict: 'none', spf: { domain: null } })
  })
})

describe('what is meant to exhaust: bounded, with a stated result', () => {
  it('ten thousand signatures: ten are looked at, those of the From domain first', async () => {
    const other = 'DKIM-Signature: v=1; a=rsa-sha256; d=other.example; s=s1; h=from; bh=AAAA; b=AAAA\r\n'
    const found = await verified(other.repeat(2000) + await signed(`${HEAD}\r\nHello\r\n`))
    expect([found.verdict, found.dkim.length, found.more, found.dkim[0]!.domain]).toEqual(['pass', 10, 1991, 'quayline.example'])
    const huge = await verified(other.repeat(10_000) + await signed(`${HEAD}\r\nHello\r\n`))
    expect(huge.dkim[0]).toMatchObject({ result: 'permerror', reason: expect.stringContaining('too long') })
  })
  it('a key of 16,384 bits, and one of 512', async () => {
    for (const [bits, result] of [[16_384, 'fail'], [512, 'policy']] as const) {
      // A modulus nobody knows the factors of: what is asked is whether it is looked at in time.
      const modulus = Buffer.alloc(bits / 8, 0xc5).toString('base64url')
      const { createPublicKey } = await import('node:crypto')
      const key = createPublicKey({ key: { kty: 'RSA', n: modulus, e: 'AQAB' }, format: 'jwk' }).export({ type: 'spki', format: 'der' })
      const zone = `s1._domainkey.quayline.example. TXT ( ${strings(`v=DKIM1; p=${key.toString('base64')}`)} )\n`
      expect((await verified(await signed(`${HEAD}\r\nHello\r\n`), { zone })).dkim).toMatchObject([{ result }])
    }
  })
  it('a chain of 200 seals', async () => {
    const set = (i: number) =>
      `ARC-Seal: i=${i}; a=rsa-sha256; cv=${i === 1 ? 'none' : 'pass'}; d=quayline.example; s=s1; b=AAAA\r\n`
      + `ARC-Message-Signature: i=${i}; a=rsa-sha256; d=quayline.example; s=s1; h=from; bh=AAAA; b=AAAA\r\n`
      + `ARC-Authentication-Results: i=${i}; quayline.example; spf=pass\r\n`
    const chain = (n: number) => Array.from({ length: n }, (_, i) => set(n - i)).join('')
    expect((await verified(`${chain(200)}${HEAD}\r\nx\r\n`)).arc).toMatchObject({ result: 'fail' })
    expect((await verified(`${chain(40)}${HEAD}\r\nx\r\n`)).arc).toMatchObject({ result: 'fail' })
  })
  it('an SPF record that includes itself, one of a hundred kilobytes, and ten thousand records', async () => {
    const spf = async (records: string) => (await verified(HEAD, { zone: records, mailFrom: 'ada@quayline.example' })).spf.result
    expect(await spf('quayline.example. TXT "v=spf1 include:quayline.example +all"\n')).toBe('permerror')
    expect(await spf(`quayline.example. TXT "v=spf1 " ${'"ip4:192.0.2.1 ip4:192.0.2.2 " '.repeat(3500)} "+all"\n`)).toBe('permerror')
    const lines = 'quayline.example. TXT "some verification token"\n'.repeat(10_000)
    expect(await spf(`${lines}quayline.example. TXT "v=spf1 ip4:192.0.2.25 -all"\n`)).toBe('pass')
    expect(await spf(`quayline.example. TXT "v=spf1 " ${'"exists:%{s}%{s}%{s}%{s}.example " '.repeat(9)} "+all"\n`)).toBe('permerror')
  })
  it('a header of two megabytes in one field, of many lines, and a body of one line of three megabytes', async () => {
    const message = await signed(`${HEAD}\r\nHello\r\n`)
    const reason = async (m: string) => (await verified(m)).dkim[0]!.reason
    expect(await reason(`X-Pad: ${'y'.repeat(2_000_000)}\r\n${message}`)).toContain('header is too long')
    expect(await reason(`X-Pad: y\r\n${' y\r\n'.repeat(2000)}${message}`)).toContain('too many lines')
    expect(await reason(`${message}${'z'.repeat(3_000_000)}`)).toContain('line is too long')
  })
  it('no bytes, no header, no body, only a signature', async () => {
    for (const message of ['', '\r\n', 'From: ada@quayline.example', 'DKIM-Signature: ', '\0\0\r\n\r\n', ' folded first\r\n\r\nx'])
      expect(['none', 'fail']).toContain((await verified(message)).verdict)
  })
})

describe('DNS that does not answer favours nobody, and condemns nobody', () => {
  it('every result that needs it is temperror', async () => {
    const message = await signed(`${HEAD}\r\nHello\r\n`)
    const found = await verified(message, { resolve: silent, mailFrom: 'ada@quayline.example' })
    expect([found.verdict, found.spf.result, found.dkim[0]!.result, found.dmarc.result]).toEqual(Array(4).fill('temperror'))
  })
  it('a policy that is not known: only what a strict one accepts passes', async () => {
    const zone = zoneResolver(readZone(`${KEY}s1._domainkey.mail.quayline.example. TXT ( ${strings(`v=DKIM1; p=${publicKey}`)} )\n`))
    const resolve: Resolve = (name, type) => (name.startsWith('_dmarc') ? silent(name, type) : zone(name, type))
    expect((await verified(await signed(`${HEAD}\r\nHello\r\n`), { resolve })).verdict).toBe('pass')
    const below = await signed(`${HEAD}\r\nHello\r\n`, { signingDomain: 'mail.quayline.example' })
    expect((await verified(below, { resolve })).verdict).toBe('temperror')
    expect((await verified(below, { resolve: zone })).verdict).toBe('pass')
  })
  it('an include that is not answered is no reason to go on to what follows (RFC 7208 5.2)', async () => {
    const zone = zoneResolver(readZone('quayline.example. TXT "v=spf1 include:slow.example +all"\n'))
    const resolve: Resolve = (name, type) => (name === 'slow.example' ? silent(name, type) : zone(name, type))
    expect((await verified(HEAD, { resolve, mailFrom: 'ada@quayline.example' })).spf.result).toBe('temperror')
  })
  it('a server that fails in an odd way, or answers with something odd, is one that does not answer', async () => {
    const odd: Resolve = () => Promise.reject(new TypeError('odd'))
    expect((await verified(await signed(`${HEAD}\r\nx\r\n`), { resolve: odd })).verdict).toBe('temperror')
  })
})
