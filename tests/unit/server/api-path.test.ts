import { createApp, createRouter, defineEventHandler, toNodeListener } from 'h3'
import { createServer, request } from 'node:http'
import type { AddressInfo } from 'node:net'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { apiPath } from '../../../server/platform/api-path'

describe('the path that is judged: somebody would come in by another spelling of it', () => {
  it.each([
    ['/api/copies', '/api/copies'],
    ['/api/copies?words=%61', '/api/copies'],
    ['/api/rules/fee-demands.v2~x', '/api/rules/fee-demands.v2~x'],
    ['/api/copies/7/source?', '/api/copies/7/source'],
  ])('%s is taken as it stands', (target, path) => expect(apiPath(target)).toEqual({ path }))
  it.each([
    '/%61pi/imports',
    '/%2561pi/imports',
    '/%252561pi/imports',
    '/API/imports',
    '/Api/imports',
    '//api/imports',
    '/\\api/imports',
    '/%5capi/imports',
    '/api%2fimports',
    '/api%2Fimports',
    '/api/%69mports',
    '/api//imports',
    '/api/imports/',
    '/api/./imports',
    '/api/../api/imports',
    '/x/../api/imports',
    '/x/%2e%2e/api/imports',
    '/api/imports%00',
    '/api/imports%20',
    '/api/imp\u00F6rts',
    '/api',
    '/api/',
    'http://127.0.0.1/api/imports',
    '/;/api/imports',
    `/api/${'x'.repeat(81)}`,
  ])('%s is nothing', target => expect(apiPath(target)).toBe('odd'))
  it.each(['/', '/mail', '/rules/api-notes', '/_nuxt/entry.js', '/mail?touchedBy=/api/x', '/apix', '/%', '/%zz%41'])(
    '%s is a page',
    target => expect(apiPath(target)).toBe(null),
  )
  it('costs no more than its length', () => {
    const before = performance.now()
    for (const c of ['%25', '/', '%61', '/api', 'a']) expect(apiPath(`/${c.repeat(50_000)}`)).not.toEqual({ path: '/' })
    expect(performance.now() - before).toBeLessThan(5000)
  })
})

// The router that the application stands on is asked what it makes of each spelling: the peer, not our reading of it.
describe('held against the router itself', () => {
  const reached: string[] = []
  const server = createServer(
    toNodeListener(
      createApp().use(
        createRouter().get(
          '/api/imports',
          defineEventHandler((event) => {
            reached.push(event.node.req.url ?? '')
            return 'in'
          }),
        ),
      ),
    ),
  )
  beforeAll(() => new Promise<void>(done => server.listen(0, '127.0.0.1', done)))
  afterAll(() => new Promise(done => server.close(done)))
  const ask = (path: string) =>
    new Promise<number>((resolve, reject) => {
      const { port } = server.address() as AddressInfo
      request({ port, host: '127.0.0.1', path, agent: false }, answer =>
        answer.resume().on('end', () => resolve(answer.statusCode!)),
      )
        .on('error', reject)
        .end()
    })
  it('whatever reaches a route by another spelling is called odd', async () => {
    const letters = [...'/api/imports']
    const spellings = letters.flatMap((letter, i) =>
      [
        `%${letter.charCodeAt(0).toString(16)}`,
        `%25${letter.charCodeAt(0).toString(16)}`,
        letter.toUpperCase(),
        `${letter}/`,
        `/${letter}`,
        `./${letter}`,
      ].map(other => [...letters.slice(0, i), other, ...letters.slice(i + 1)].join('')),
    )
    let opened = 0
    for (const path of spellings.filter(s => s.startsWith('/') && s !== '/api/imports')) {
      reached.length = 0
      await ask(path)
      if (!reached.length) continue
      opened++
      expect([path, apiPath(path)]).toEqual([path, 'odd'])
    }
    expect(opened).toBeGreaterThan(5)
  })
})
