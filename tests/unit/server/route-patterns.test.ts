import type { H3Event } from 'h3'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { DrizzleQueryError } from 'drizzle-orm/errors'
import { ACCESS, grantFor, isGranted } from '../../../server/access/routes'
import { clientAddress } from '../../../server/platform/client-address'
import { smtpLimits } from '../../../server/smtp/limits'
import { faultText } from '../../../server/platform/log'
import { isSecret } from '../../../server/platform/secrets'

afterEach(() => vi.unstubAllEnvs())

describe('who may call what, by the route that runs', () => {
  it('every route is found by its own path, and no other', () => {
    for (const route of Object.keys(ACCESS)) {
      const [method, pattern] = route.split(' ') as [string, string]
      const path = pattern.replace(':id', '7')
      expect(grantFor(method, path)?.route).toBe(route)
      expect(isGranted(route, method, pattern)).toBe(true)
      for (const other of [`${path}/x/y`, `${path}/`, `/x${path}`, path.toUpperCase()])
        expect([other, grantFor(method, other)]).toEqual([other, null])
    }
    expect(grantFor('HEAD', '/api/lists')).toBe(null)
    expect(grantFor('post', '/api/lists')).toBe(null)
  })
  it('what was granted for one route opens no other', () => {
    expect(isGranted('GET /api/lists', 'POST', '/api/lists')).toBe(false)
    expect(isGranted('GET /api/health', 'GET', '/api/policy')).toBe(false)
    expect(isGranted(undefined, 'GET', '/api/health')).toBe(false)
    expect(isGranted('GET undefined', 'GET', undefined)).toBe(true) // no route of that name is in ACCESS
    expect(Object.keys(ACCESS)).not.toContain('GET undefined')
  })
})

describe('the client whose attempts are counted: somebody would write another one into a header', () => {
  const event = (remoteAddress: string, forwarded?: string) =>
    ({
      node: {
        req: { socket: { remoteAddress }, headers: forwarded === undefined ? {} : { 'x-forwarded-for': forwarded } },
      },
    }) as unknown as H3Event
  it('is who connects, unless that is a proxy of ours', () => {
    expect(clientAddress(event('203.0.113.9', '198.51.100.1'))).toBe('203.0.113.9')
    vi.stubEnv('SOBER_GATE_PROXIES', '10.0.0.0/8, 2001:db8::/32')
    expect(clientAddress(event('203.0.113.9', '198.51.100.1'))).toBe('203.0.113.9')
    expect(clientAddress(event('10.0.0.1', '198.51.100.1'))).toBe('198.51.100.1')
    expect(clientAddress(event('::ffff:10.0.0.1', '192.0.2.66, 198.51.100.1, 2001:db8::2'))).toBe('198.51.100.1')
    expect(clientAddress(event('10.0.0.1', 'nonsense'))).toBe('10.0.0.1')
    expect(clientAddress(event('10.0.0.1'))).toBe('10.0.0.1')
  })
})

describe('limits from the environment: a typing mistake would open the door', () => {
  it('takes whole numbers and says of others what is expected', () => {
    expect(smtpLimits()).toEqual({
      clients: 200,
      perClient: 20,
      commandSeconds: 60,
      transactionSeconds: 300,
      recipients: 1000,
      unknownRecipients: 10,
    })
    vi.stubEnv('SOBER_GATE_SMTP_CLIENTS_EACH', '5')
    expect(smtpLimits().perClient).toBe(5)
    for (const wrong of ['0', '-1', '1e9', 'twenty', '5 ', '99999999999']) {
      vi.stubEnv('SOBER_GATE_SMTP_CLIENTS_EACH', wrong)
      expect(() => smtpLimits()).toThrow('SOBER_GATE_SMTP_CLIENTS_EACH must be a whole number')
    }
    vi.unstubAllEnvs()
    // RFC 5321 4.5.3.1.8: a server takes 100 recipients at least.
    vi.stubEnv('SOBER_GATE_SMTP_RECIPIENTS', '99')
    expect(() => smtpLimits()).toThrow('from 100')
  })
})

describe('secrets and the log', () => {
  it('a token of other letters is a wrong one, and no fault', () => {
    expect(isSecret('setup-töken', 'setup-token')).toBe(false)
    expect(isSecret('', 'setup-token')).toBe(false)
    expect(isSecret('\u{1F511}'.repeat(8), 'x'.repeat(16))).toBe(false)
    expect(isSecret('setup-token', 'setup-token')).toBe(true)
  })
  it('a failed query is told without what it was given: a password’s hash would lie in the log', () => {
    const cause = Object.assign(new Error('duplicate key value violates unique constraint'), { code: '23505' })
    const error = new DrizzleQueryError('insert into people values ($1, $2)', ['m', 'scrypt:secret-hash'], cause)
    for (const shown of [error, new AggregateError([error], 'several')]) {
      expect(faultText(shown)).toContain('duplicate key value')
      expect(faultText(shown)).toContain('insert into people')
      expect(faultText(shown)).not.toContain('secret-hash')
    }
    expect(faultText('plain')).toBe('plain')
  })
})
