import { describe, expect, it } from 'vitest'
import { decide, readPolicy, type Policy, type UpstreamVerdict } from '#core'
import { conditionWords } from '#core/words'
import { envelope, message, NOW } from '../../support/build'

const FLAG: UpstreamVerdict = { id: 'flag', name: 'Edge flag', header: 'x-edge-verdict', text: 'unwanted*' }
const LABEL: UpstreamVerdict = { id: 'label', name: 'Edge label', before: '[Unwanted]' }
const policyOf = (upstreamVerdict: true | string, upstreamVerdicts: UpstreamVerdict[]) =>
  readPolicy({
    format: 'sober-gate-policy',
    formatVersion: 3,
    trust: { ownDomains: ['x.test'], upstreamVerdicts },
    rules: [
      {
        id: 'r',
        name: 'R',
        owner: 'organisation',
        state: 'enabled',
        when: { upstreamVerdict },
        except: [],
        claims: [{ stop: { to: 'spam' } }],
      },
    ],
  })
const laneOf = async (head: string, upstreamVerdict: true | string = true, upstreamVerdicts = [FLAG, LABEL]) => {
  const read = policyOf(upstreamVerdict, upstreamVerdicts) as { policy: Policy }
  return decide(await message(`From: a@y.test\r\n${head}\r\n\r\nx`, envelope()), 'b@x.test', read.policy, { now: NOW })
    .lane
}

describe('the marks of an upstream system: only those that the administrator named count', () => {
  it('a header field by its whole text, case ignored', async () => {
    expect(await laneOf('X-Edge-Verdict: Unwanted; 9.1')).toBe('spam')
    expect(await laneOf('X-Edge-Verdict: not unwanted')).toBe('inbox')
    expect(await laneOf('X-Other-Verdict: unwanted')).toBe('inbox')
  })
  it('words before the subject, not within it', async () => {
    expect(await laneOf('Subject:  [UNWANTED] offer')).toBe('spam')
    expect(await laneOf('Subject: Re: [Unwanted] offer')).toBe('inbox')
  })
  it('one of them by its name', async () => {
    expect(await laneOf('Subject: [Unwanted] offer', 'flag')).toBe('inbox')
    expect(await laneOf('X-Edge-Verdict: unwanted', 'flag')).toBe('spam')
  })
  it('none is believed by itself: a header with a well-known name says nothing here', async () => {
    expect(await laneOf('X-Spam-Flag: YES\r\nSubject: [SPAM] x', true, [])).toBe('inbox')
  })
  it('a mark that is not there is refused; its words name it', () => {
    expect(policyOf('gone', [FLAG])).toMatchObject({ problems: [{ path: '/rules/0/when/upstreamVerdict' }] })
    const names = { quarantines: [], lists: [], phraseSets: [], trust: { upstreamVerdicts: [FLAG] } }
    expect(conditionWords({ upstreamVerdict: 'flag' }, names)).toContain('Edge flag')
  })
  it('says a header or words before the subject, and not both', () => {
    for (const wrong of [
      { id: 'a', name: 'A' },
      { id: 'a', name: 'A', header: 'x-a', before: '[A]' },
      { id: 'a', name: 'A', before: '[A]', text: 'x' },
    ])
      expect(policyOf(true, [wrong as UpstreamVerdict])).toHaveProperty('problems')
  })
})
