// An administrator sets up a relay with a header out of another program: what of it was not read, and why nobody is believed.
import { describe, expect, it } from 'vitest'
import { hopsOf, parseAuthenticationResults, readPastedHeader } from '#core/message'
import { whyNotVerified } from '#core/words'

const RELAYS = [{ network: '127.0.0.2', authservId: 'relay.holt.example' }]

function why(header: string, { client = '127.0.0.2', fromDomain = 'quayline.example' as string | null } = {}): string {
  const fields = header.split('\n').map(line => ({ name: line.slice(0, line.indexOf(':')), value: line.slice(line.indexOf(':') + 1).trim() }))
  const results = fields.filter(f => f.name === 'Authentication-Results').flatMap(f => parseAuthenticationResults(f.value) ?? [])
  return whyNotVerified({ hops: hopsOf(fields, client, { relays: RELAYS }), results, fromDomain })
}

const RECEIVED = 'Received: from m.quayline.example ([192.0.2.4]) by relay.holt.example; Tue, 24 Nov 2026 09:00:00 +0000'
const OWN = 'Authentication-Results: relay.holt.example; dmarc=pass header.from=quayline.example'

describe('why a relay is not believed', () => {
  it.each([
    [
      'no Received field below its results', OWN, {},
      '127.0.0.2 is a trusted relay, but the message has no Received field below its Authentication-Results',
    ],
    ['another machine', `${OWN}\n${RECEIVED}`, { client: '127.0.0.3' }, '127.0.0.3 is not a trusted relay'],
    [
      'another authserv-id', `${OWN.replace('relay.holt', 'mx.holt')}\n${RECEIVED}`, {},
      'has the authserv-id “mx.holt.example”, not “relay.holt.example”',
    ],
    ['results below its Received field', `${RECEIVED}\n${OWN}`, {}, 'below its Received field, where the sender could have written it'],
    ['nothing of it at all', 'From: a@quayline.example', {}, 'it wrote no Authentication-Results, and no Received field'],
    ['no results', RECEIVED, {}, 'it wrote no Authentication-Results above its Received field'],
    [
      'results for another domain', `Authentication-Results: relay.holt.example; dkim=pass header.d=bulk.test\n${RECEIVED}`, {},
      'has no result for quayline.example, the domain in From: it says dkim=pass for bulk.test',
    ],
    ['no single sender', `${OWN}\n${RECEIVED}`, { fromDomain: null }, 'does not name exactly one sender in From'],
  ])('%s', (_, header, over, words) => {
    expect(why(header, over)).toContain(words)
  })

  it('of two relays the outer one is named: the inner one did its part', () => {
    const inner = 'Received: from relay ([127.0.0.2]) by in.holt.example; Tue, 24 Nov 2026 09:00:01 +0000'
    const relays = [...RELAYS, { network: '127.0.0.9', authservId: 'in.holt.example' }]
    const fields = [inner, RECEIVED].map(l => ({ name: 'Received', value: l.slice(10) }))
    const words = whyNotVerified({ hops: hopsOf(fields, '127.0.0.9', { relays }), results: [], fromDomain: 'quayline.example' })
    expect(words).toMatch(/^127\.0\.0\.2 is a trusted relay, but/)
  })
})

describe('a header that was pasted', () => {
  it('is read without what is no field of it, and that is named with its line', () => {
    const pasted = `Copy header\n\n${OWN}\r\n  (comment)\rDownload source\n${RECEIVED}\nSubject: a\n  b\n\nHello,\nthis is the body.\n`
    expect(readPastedHeader(pasted)).toEqual({
      header: [OWN, '  (comment)', RECEIVED, 'Subject: a', '  b'].join('\r\n'),
      unread: [{ line: 1, text: 'Copy header' }, { line: 5, text: 'Download source' }],
      below: 2,
    })
  })
  it('the rest of a line that lost its indentation is named, and what continues it is not taken for a field', () => {
    expect(readPastedHeader('Subject: a\nlost\n more of it\nFrom: a@b.example').unread.map(u => u.text)).toEqual(['lost', 'more of it'])
  })
  it.each([['nothing', ''], ['blank lines', '\n \n\t\n'], ['no field', 'Show original\nPrint']])('%s is no header', (_, text) => {
    expect(readPastedHeader(text).header).toBe('')
  })
})
