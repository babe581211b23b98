import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { decide, parseMessage } from '#core'
import { envelope, letter, NOW, OURS, policy, TRUST } from '../../support/build'

const parse = (text: string | Uint8Array) =>
  parseMessage(typeof text === 'string' ? new TextEncoder().encode(text) : text, envelope(), TRUST)
const codes = async (text: string) => (await parse(text)).content.defects.map(d => d.code)
const HEAD = 'From: a@x.test\r\nDate: Tue, 24 Nov 2026 09:00:00 +0000\r\nMessage-ID: <1@x.test>\r\n'
const stopping = policy({
  rules: [
    {
      id: 'r',
      name: 'r',
      owner: 'organisation',
      state: 'enabled',
      when: { phrases: ['release fee'] },
      except: [],
      claims: [{ stop: { to: 'spam' } }],
    },
  ],
})
const lane = async (text: string) => decide(await parse(text), `oskar@${OURS}`, stopping, { now: NOW }).lane

describe('hostile and broken mail: it would be lost, or slip through', () => {
  it('no bytes make reading or deciding fail', async () => {
    const whole = new TextEncoder().encode(
      `${HEAD}Content-Type: multipart/mixed; boundary=b\r\n\r\n--b\r\nContent-Type: text/html\r\n\r\n<p>release `
      + `fee\r\n--b\r\nContent-Transfer-Encoding: base64\r\n\r\nAAAA\r\n--b--\r\n`,
    )
    await fc.assert(
      fc.asyncProperty(
        fc.oneof(
          fc.uint8Array({ maxLength: 400 }),
          fc.array(fc.tuple(fc.nat(whole.length - 1), fc.nat(255)), { maxLength: 12 }).map((edits) => {
            const bytes = whole.slice()
            for (const [at, value] of edits) bytes[at] = value
            return bytes
          }),
          fc.nat(whole.length).map(n => whole.slice(0, n)),
        ),
        async (bytes) => {
          const message = await parse(bytes)
          expect(decide(message, `oskar@${OURS}`, stopping, { now: NOW }).lane).toMatch(/inbox|spam/)
        },
      ),
      { seed: 3, numRuns: 10_000 },
    )
  })

  it('names what is wrong', async () => {
    expect(await codes('')).toContain('empty message')
    expect(await codes(`${HEAD}From: b@y.test\r\n\r\nx`)).toContain('two From fields')
    expect(await codes('From: a@x.test, b@y.test\r\n\r\nx')).toEqual([
      'several mailboxes in From',
      'no Date',
      'no Message-ID',
    ])
    expect(await codes(`${HEAD}Content-Type: multipart/mixed; boundary=b\r\n\r\n--b\r\n\r\nx\r\n`)).toContain(
      'boundary never closes',
    )
    expect(await codes(`${HEAD}Content-Type: multipart/mixed\r\n\r\nx`)).toContain('boundary missing')
    expect((await parse(`From: chief@${OURS}\r\n\r\nx`)).attempt.defects.map(d => d.code)).toEqual([
      'claims own domain',
    ])
  })

  it('nesting deeper than any reader goes does not hide a phrase', async () => {
    let body = 'Content-Type: text/plain\r\n\r\nthe release fee\r\n'
    for (let i = 0; i < 70; i++)
      body = `Content-Type: multipart/mixed; boundary=b${i}\r\n\r\n--b${i}\r\n${body}--b${i}--\r\n`
    expect(await codes(HEAD + body)).toContain('nested too deep')
    expect(await lane(HEAD + body)).toBe('spam')
  })

  it('a body far beyond the usual is read in time that grows with its length', async () => {
    const bomb = `${HEAD}${'X-Pad: y\r\n'.repeat(60_000)}\r\n`
    expect(await codes(bomb)).toContain('too many header fields')
    const tags = `${HEAD}Content-Type: text/html\r\n\r\n${'<div>'.repeat(100_000)}release fee`
    expect(await lane(tags)).toBe('spam')
  })

  it('a phrase cut by hidden text or by tags is still what the reader sees', async () => {
    for (const html of [
      'rel<b>ease</b> fee',
      'release<span style="display:none">xx</span> fee',
      're<span style="font-size:0">zz</span>lease fee',
      'release<br>fee',
      '<table><td>release</td><td>fee</td></table>',
      're<td>lease fee',
    ]) {
      expect([
        html,
        decide(await letter({ html: `<p>${html}</p>` }), `oskar@${OURS}`, stopping, { now: NOW }).lane,
      ]).toEqual([html, 'spam'])
    }
  })

  it('tells what is hidden from what is shown, and quoted from own', async () => {
    const { content } = await letter({
      html: '<p>own words</p><blockquote type="cite">earlier words</blockquote><p style="color:#fff">white words</p><div hidden>hidden '
        + 'words</div>',
    })
    expect(content.segments.map(s => [s.place, s.text])).toEqual([
      ['subject', 'A subject'],
      ['own', 'own words'],
      ['quoted', 'earlier words'],
      ['hidden', 'white words\nhidden words'],
    ])
    const plain = await letter({ text: 'Yes.\r\n\r\nOn Monday, Ines wrote:\r\n> a release fee\r\n> is due\r\n' })
    expect(plain.content.segments.map(s => s.place)).toEqual(['subject', 'own', 'quoted'])
  })
})
