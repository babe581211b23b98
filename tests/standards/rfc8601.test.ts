// RFC 8601, appendix B: the standard's own examples of Authentication-Results (from memory), and section 5 on which count.
import { describe, expect, it } from 'vitest'
import { makeAddress, parseAuthenticationResults, verdictFor, parseMessage } from '#core'
import { letter, RELAY, OURS, TRUST, envelope } from '../support/build'

const read = (...lines: string[]) => parseAuthenticationResults(lines.join(' '))!

describe('RFC 8601 appendix B: a forged sender would count as verified, or a verified one as forged', () => {
  it('B.2, nearly trivial: service provided, no authentication done', () => {
    expect(read('example.org 1; none')).toEqual({ authservId: 'example.org', version: '1', results: [] })
  })
  it('B.3, service provided, authentication done', () => {
    const r = read('example.com; spf=pass smtp.mailfrom=example.net')
    expect(r).toMatchObject({
      authservId: 'example.com',
      results: [{ method: 'spf', result: 'pass', props: { 'smtp.mailfrom': 'example.net' } }],
    })
    expect(verdictFor(makeAddress('sender@example.net'), [r])).toEqual({
      verdict: 'pass',
      by: 'spf',
      saidBy: 'example.com',
    })
  })
  it('B.4, several authentications done, single MTA', () => {
    const r = read('example.com; auth=pass (cram-md5) smtp.auth=sender@example.net; spf=pass smtp.mailfrom=example.net')
    expect(r.results.map(x => [x.method, x.result, x.props])).toEqual([
      ['auth', 'pass', { 'smtp.auth': 'sender@example.net' }],
      ['spf', 'pass', { 'smtp.mailfrom': 'example.net' }],
    ])
    expect(read('example.com; iprev=pass policy.iprev=192.0.2.200').results[0]!.props).toEqual({
      'policy.iprev': '192.0.2.200',
    })
  })
  it('B.5, several authentications done, different MTAs', () => {
    const sign = read('example.com; dkim=pass (good signature) header.d=example.com')
    const path = read(
      'example.com; auth=pass (cram-md5) smtp.auth=sender@example.com; spf=fail smtp.mailfrom=example.com',
    )
    expect(verdictFor(makeAddress('sender@example.com'), [sign, path])).toMatchObject({ verdict: 'pass', by: 'dkim' })
  })
  it('B.6, multi-tiered authentication', () => {
    const inner = read(
      'example.com; dkim=pass reason="good signature" header.i=@mail-router.example.net; dkim=fail reason="bad signature" '
      + 'header.i=@newyork.example.com',
    )
    expect(inner.results.map(x => x.reason)).toEqual(['good signature', 'bad signature'])
    expect(verdictFor(makeAddress('sender@newyork.example.com'), [inner])).toMatchObject({
      verdict: 'fail',
      by: 'dkim',
    })
    expect(verdictFor(makeAddress('list@example.net'), [inner])).toMatchObject({ verdict: 'pass', by: 'dkim' })
  })
  it('B.7, comment-heavy example', () => {
    const r = read(
      'foo.example.net (foobar) 1 (baz); dkim (Because I like it) / 1 (One yay) = (wait for it) fail',
      'policy (A dot can go here) . (like that) expired (this surprised me) = (as I wasn\'t expecting it) 1362471462',
    )
    expect(r).toEqual({
      authservId: 'foo.example.net',
      version: '1',
      results: [{ method: 'dkim', result: 'fail', reason: null, props: { 'policy.expired': '1362471462' } }],
    })
  })
})

describe('RFC 8601 section 5: anybody could verify themselves', () => {
  const forged = (head: string[], client: string) =>
    parseMessage(
      new TextEncoder().encode(
        [
          ...head,
          `From: chief@${OURS}`,
          'Date: Tue, 24 Nov 2026 09:00:00 +0000',
          'Message-ID: <1@x.test>',
          '',
          'x',
        ].join('\r\n'),
      ),
      envelope({ client }),
      TRUST,
    )
  const pass = `Authentication-Results: ${RELAY.authservId}; dmarc=pass header.from=${OURS}`
  const relayReceived = `Received: from evil.test (evil.test [203.0.113.9]) by ${RELAY.authservId}; Tue, 24 Nov 2026 09:00:00 +0000`

  it('counts only what comes from the configured relay, and above its Received field', async () => {
    expect((await letter({ auth: 'pass' })).attempt.authentication.verdict).toBe('pass')
    expect((await forged([pass, relayReceived], '203.0.113.9')).attempt.authentication.verdict).toBe('none')
    expect((await forged([relayReceived, pass], '198.51.100.7')).attempt.authentication.verdict).toBe('none')
    expect(
      (await forged([pass.replace(RELAY.authservId, 'other.example'), relayReceived], '198.51.100.7')).attempt
        .authentication.verdict,
    ).toBe('none')
  })
  it('takes the client to be the first hop outside the relays', async () => {
    expect((await letter({ auth: 'pass' })).attempt.client).toBe('203.0.113.9')
  })
})
