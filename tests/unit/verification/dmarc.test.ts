import { describe, expect, it } from 'vitest'
import { readZone, verifySender, zoneResolver } from '#core/verification'

async function dmarcOf(zone: string, { from = 'ada@mail.quayline.example', mailFrom = 'ada@quayline.example', client = '192.0.2.25' } = {}) {
  const resolve = zoneResolver(readZone(`quayline.example. TXT "v=spf1 ip4:192.0.2.25 -all"\nevil.example. TXT "v=spf1 +all"\n${zone}`))
  const bytes = new TextEncoder().encode(`From: ${from}\r\n\r\nx\r\n`)
  const asked = { bytes, mailFrom, helo: null, client, receivedAt: '2026-11-24T09:00:00Z' }
  const { authentication } = await verifySender(asked, { policy: resolve, others: resolve })
  return { verdict: authentication.verdict, ...authentication.found!.dmarc }
}
const record = (text: string, at = 'quayline.example') => `_dmarc.${at}. TXT "${text}"\n`

// RFC 7489 6.3, 6.6.3 and appendix B.1, B.2 by their rules; the examples' domains are replaced.
describe('DMARC (RFC 7489): a forged sender would be delivered, or an honest one held', () => {
  it.each([
    ['relaxed alignment is the default (3.1.2)', record('v=DMARC1; p=none'), 'pass', 'none'],
    ['strict alignment is exact, also by the organisational domain’s record', record('v=DMARC1; p=none; aspf=s'), 'fail', 'none'],
    ['the policy for subdomains counts for a subdomain', record('v=DMARC1; p=none; sp=reject; aspf=s'), 'fail', 'reject'],
    ['its own record comes before that of the organisation', record('v=DMARC1; p=reject; aspf=s') + record('v=DMARC1; p=quarantine', 'mail.quayline.example'), 'pass', 'quarantine'],
    ['of two records none counts', record('v=DMARC1; p=reject') + record('v=DMARC1; p=none'), 'none', null],
    ['of two records at the subdomain none counts, nor the one above', record('v=DMARC1; p=none', 'mail.quayline.example').repeat(2) + record('v=DMARC1; p=reject'), 'none', null],
    ['a subdomain’s record without a policy hides the one above', record('v=DMARC1; adkim=s', 'mail.quayline.example') + record('v=DMARC1; p=reject'), 'none', null],
    ['what is no tag is passed over', record('v=DMARC1; p=reject; strict!; aspf=s'), 'fail', 'reject'],
    ['what is no DMARC record is passed over', record('v=spf1 -all') + record('v=DMARC1; p=reject; aspf=s'), 'fail', 'reject'],
    ['a version that comes later is no version', record('p=reject; v=DMARC1'), 'none', null],
    ['without a policy but with an address for reports it is none', record('v=DMARC1; rua=mailto:d@quayline.example; aspf=s'), 'fail', 'none'],
    ['an unknown policy alone is no record', record('v=DMARC1; p=discard'), 'none', null],
    ['a share of zero asks nothing', record('v=DMARC1; p=reject; pct=0; aspf=s'), 'fail', 'none'],
    ['unknown tags are passed over', record('v=DMARC1; p=reject; zz=1; aspf=s'), 'fail', 'reject'],
    ['a tag twice is no record', record('v=DMARC1; p=reject; p=none'), 'none', null],
    ['no record', '', 'none', null],
  ])('%s', async (_, zone, result, policy) => {
    expect(await dmarcOf(zone)).toMatchObject({ result, policy })
  })
  it('SPF of another domain passes for nobody in From', async () => {
    const zone = record('v=DMARC1; p=reject')
    expect(await dmarcOf(zone, { mailFrom: 'x@evil.example' })).toMatchObject({ verdict: 'fail', result: 'fail', policy: 'reject' })
    expect(await dmarcOf(zone, { client: '203.0.113.9' })).toMatchObject({ verdict: 'fail' })
  })
  it('domains below a public suffix do not stand for each other', async () => {
    const zone = 'a.co.uk. TXT "v=spf1 +all"\n_dmarc.b.co.uk. TXT "v=DMARC1; p=reject"\n_dmarc.co.uk. TXT "v=DMARC1; p=none"\n'
    expect(await dmarcOf(zone, { from: 'x@b.co.uk', mailFrom: 'x@a.co.uk' })).toMatchObject({ result: 'fail', policy: 'reject' })
  })
})
