import { describe, expect, it } from 'vitest'
import { isCrossOrigin } from '../../../server/platform/origin'

// W3C Fetch Metadata Request Headers (2.3, Sec-Fetch-Site) and RFC 6454 7 (Origin).
describe('requests from elsewhere: a page of somebody else’s would act in one’s name', () => {
  const host = 'gate.example'
  it.each([
    ['POST', { 'sec-fetch-site': 'cross-site' }, true],
    ['POST', { 'sec-fetch-site': 'same-site' }, true],
    ['POST', { 'sec-fetch-site': 'none' }, true],
    ['POST', { 'sec-fetch-site': 'same-origin' }, false],
    ['GET', { 'sec-fetch-site': 'none' }, false],
    ['GET', { 'sec-fetch-site': 'cross-site' }, true],
    ['POST', { origin: 'https://elsewhere.example' }, true],
    ['POST', { origin: 'https://gate.example.elsewhere.example' }, true],
    ['POST', { origin: 'null' }, true],
    ['POST', { origin: '' }, true],
    ['POST', { origin: 'https://gate.example:8443' }, true],
    ['POST', { origin: 'https://gate.example' }, false],
    ['DELETE', {}, false],
    // What the browser says of itself weighs more than an Origin that anything may carry.
    ['POST', { 'sec-fetch-site': 'cross-site', 'origin': 'https://gate.example' }, true],
  ])('%s with %o: %s', (method, headers, other) =>
    expect(isCrossOrigin(method, { host, ...headers })).toBe(other),
  )
})
