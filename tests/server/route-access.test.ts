// The doors of the running product, tried as somebody would who means to come in.
import { createConnection } from 'node:net'
import { readFileSync } from 'node:fs'
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { ACCESS, EVERYBODY, grantFor } from '../../server/access/routes'
import { eachOf } from '../support/parallel'
import { type Caller, JSON_TYPE, keptConnections, request, signIn } from '../support/http'
import { install, type Installation, TOKEN } from '../support/installation'
import { addressOf, OURS } from '../support/office'
import { plainMessage } from '../support/smtp'

const ROLES = ['administrator', 'reviewer', 'worker'] as const
type Who = (typeof ROLES)[number] | 'nobody'
let gate: Installation
let cookies: Record<Who, string>
let admin: Caller

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'doors', { env: { SOBER_GATE_PROXIES: '127.0.0.9' } })
  admin = await signIn(gate, 'admin')
  cookies = {
    administrator: admin.cookie,
    reviewer: (await signIn(gate, 'reviewer')).cookie,
    worker: (await signIn(gate, 'worker')).cookie,
    nobody: '',
  }
})
afterAll(() => gate.stop())

const BATCH_SIZE = 8
const agent = keptConnections(BATCH_SIZE)
/** A request with its line as it is written, over connections that are kept. */
const raw = (method: string, path: string, headers: Record<string, string> = {}, body = '') =>
  request(gate.url, path, { method, headers, body, agent })

/** The spellings of a path that a router might take for the path itself. */
function spellings(path: string): string[] {
  const hex = (c: string) => c.charCodeAt(0).toString(16)
  const last = path.length - 1
  return [
    path.replace('/api', '/%61pi'),
    path.replace('/api', '/%61%70%69'),
    path.replace('/api', '/%2561pi'),
    path.replace('/api', '/API'),
    path.replace('/api', '//api'),
    path.replace('/api', '/./api'),
    path.replace('/api', '/x/../api'),
    path.replace('/api', '/x/%2e%2e/api'),
    path.replace('/api/', '/api//'),
    path.replace('/api/', '/api%2f'),
    path.replace('/api/', '/api%5c'),
    path.replace('/api/', '/api/;x/'),
    `${path.slice(0, last)}%${hex(path[last]!)}`,
    `${path.slice(0, 5)}%${hex(path[5]!)}${path.slice(6)}`,
    `${path}/`,
    `${path}//`,
    `${path}/.`,
    `${path}%00`,
    `${path}.json`,
    `${path};x=1`,
    `http://127.0.0.1${path}`,
    path.toUpperCase(),
  ]
}

describe('every route, every role, every spelling: somebody would come in where the door does not look', () => {
  const routes = Object.entries(ACCESS).map(([route, roles]) => {
    const [method, pattern] = route.split(' ') as [string, string]
    return { method, path: pattern.replace(':id', '999999999'), roles }
  })
  it.each(routes)('$method $path', async ({ method, path, roles }) => {
    const before = await versions()
    const body = method === 'GET' || method === 'DELETE' ? '' : '{}'
    const headersOf = (who: Who) => ({ ...(cookies[who] ? { cookie: cookies[who] } : {}), ...JSON_TYPE })
    for (const who of [...ROLES, 'nobody'] as const) {
      // Signing out would end the session that the next is tried with; what it lets in is tried below.
      if (path === '/api/session' && method === 'DELETE') continue
      const plain = await raw(method, path, headersOf(who), body)
      const allowed = roles === EVERYBODY || (who !== 'nobody' && roles.includes(who))
      if (allowed) expect([who, [401, 403, 500].includes(plain.status) && path !== '/api/setup']).toEqual([who, false])
      else expect([who, plain.status]).toEqual([who, who === 'nobody' ? 401 : 403])
      expect([path, plain.headers.get('cache-control')]).toEqual([path, 'no-store'])
    }
    // As whoever may most: another spelling that opened the route would answer this one. That the path is marked before the role
    // is, the unit tests of apiPath and grantFor hold, which know no roles.
    // "/api/lists/7.json" is the list of another id, and asked for as such.
    await eachOf(spellings(path).filter(s => grantFor(method, s) === null), BATCH_SIZE, async (other) => {
      const { status, text } = await raw(method, other, headersOf('administrator'), body)
      // Nothing of the API answers: not found, or the page that every other path shows.
      if (status === 200) expect([other, text.slice(0, 15)]).toEqual([other, '<!DOCTYPE html>'])
      else expect([other, status]).toEqual([other, status === 405 ? 405 : 404])
    })
    expect(await versions()).toEqual(before)
  })
  // The page answers everybody alike, and so does what is not found: one path tells for all roles.
  it.each([...ROLES, 'nobody'] as const)('other spellings of one path, as %s', async (who) => {
    const headers = cookies[who] ? { cookie: cookies[who] } : undefined
    await eachOf(spellings('/api/lists'), BATCH_SIZE, async (other) => {
      const { status, text } = await raw('GET', other, headers)
      if (status === 200) expect([other, text.slice(0, 15)]).toEqual([other, '<!DOCTYPE html>'])
      else expect([other, status]).toEqual([other, 404])
    })
  })
  async function versions() {
    return [await gate.ask.countVersions(), await gate.ask.countCopies()]
  }
  it('nothing that packages bring along answers beside them', async () => {
    for (const path of ['/api/_auth/session', '/%61pi/_auth/session', '/api/_nuxt_icon/x', '/api/%5f%61uth/session'])
      for (const method of ['GET', 'POST', 'DELETE'])
        expect([path, method, (await raw(method, path, { cookie: cookies.worker })).status]).toEqual([
          path,
          method,
          404,
        ])
  })
  it('the token of the command line is taken whole or not at all', async () => {
    const lists = (authorization: string) => raw('GET', '/api/lists', { authorization }).then(r => r.status)
    expect(await lists(`Bearer ${TOKEN}`)).toBe(200)
    for (const wrong of [
      `Bearer ${TOKEN}x`,
      `Bearer ${TOKEN.slice(1)}`,
      `Bearer ${'\u00FC'.repeat(TOKEN.length)}`,
      `bearer ${TOKEN}`,
      `Bearer`,
      `Basic ${TOKEN}`,
      `Bearer  ${TOKEN}`,
    ])
      expect([wrong, await lists(Buffer.from(wrong).toString('latin1'))]).toEqual([wrong, 401])
  })
})

describe('an import: somebody’s file would decide as if our own relay had brought it', () => {
  // The demo's relay, which says that the sender is verified, and a desk of its office.
  const RELAYED = [
    'Received: from relay (relay [127.0.0.2]) by gate.saltmere-harbour.example; Tue, 24 Nov 2026 09:00:00 +0000',
    'Authentication-Results: relay.saltmere-harbour.example; dmarc=pass header.from=saltmere-harbour.example',
    'Received: from y (y [203.0.113.80]) by relay.saltmere-harbour.example; Tue, 24 Nov 2026 08:59:00 +0000',
  ]
  const INSIDE = [
    'Received: from desk (desk [198.51.100.140]) by gate.saltmere-harbour.example; Tue, 24 Nov 2026 09:00:00 +0000',
  ]
  const forged = (trace: string[]) =>
    [
      'Return-Path: <ines.varga@saltmere-harbour.example>',
      ...trace,
      plainMessage({ from: 'ines.varga@saltmere-harbour.example' }),
    ].join('\n')
  const send = (query: string, trace: string[], headers: Record<string, string> = {}) =>
    raw(
      'POST',
      `/api/imports${query}`,
      { 'cookie': cookies.administrator, 'content-type': 'message/rfc822', ...headers },
      forged(trace),
    )
  const attemptOf = async (answer: { status: number, text: string }) => {
    expect(answer.status).toBe(200)
    const { copies } = JSON.parse(answer.text) as { copies: { id: number }[] }
    const [{ direction, client, authentication } = expect.unreachable()] = await gate.ask.attempts({ copy: copies[0]!.id })
    return { direction, client, verdict: authentication!.verdict, at: (await gate.ask.copy(copies[0]!.id)).receivedAt }
  }
  const at = new Date('2026-11-24T09:00:00Z')
  it('its time counts, its authentication and its direction do not', async () => {
    for (const trace of [RELAYED, INSIDE])
      expect(await attemptOf(await send(`?recipient=worker@${OURS}`, trace))).toEqual({
        direction: 'inbound',
        client: null,
        verdict: 'none',
        at,
      })
  })
  it('unless an administrator says so', async () => {
    const query = `?recipient=worker@${OURS}&trustReceived=true`
    expect(await attemptOf(await send(query, RELAYED))).toEqual({
      direction: 'inbound',
      client: '203.0.113.80',
      verdict: 'pass',
      at,
    })
    expect(await attemptOf(await send(query, INSIDE))).toEqual({
      direction: 'internal',
      client: '198.51.100.140',
      verdict: 'none',
      at,
    })
  })
  it('takes mail only, and nobody’s but an administrator’s', async () => {
    for (const type of [
      'application/x-www-form-urlencoded',
      'multipart/form-data; boundary=x',
      'text/plain',
      'application/json',
      '',
    ])
      expect([type, (await send('', [], { 'content-type': type })).status]).toEqual([type, 415])
    expect((await send('', [], { cookie: cookies.worker })).status).toBe(403)
    expect((await send('?trustReceived=perhaps', [])).status).toBe(400)
  })
})

describe('requests from elsewhere: a page of somebody else’s would move mail, sign in and sign out', () => {
  const from = (headers: Record<string, string>, type = 'application/json') =>
    raw(
      'POST',
      '/api/copies/judgement',
      { 'cookie': cookies.worker, 'content-type': type, ...headers },
      '{"ids":[999999999],"versions":"any","value":null}',
    ).then(r => r.status)
  it('takes what its own pages send', async () => {
    const { host } = new URL(gate.url)
    expect(await from({ 'sec-fetch-site': 'same-origin' })).toBe(404)
    expect(await from({ origin: `http://${host}` })).toBe(404)
    expect(await from({})).toBe(404)
  })
  it('and nothing that others make a browser send', async () => {
    for (const headers of [
      { 'sec-fetch-site': 'cross-site' },
      { 'sec-fetch-site': 'same-site' },
      { origin: 'https://elsewhere.example' },
      { origin: 'null' },
    ] as Record<string, string>[])
      expect([headers, await from(headers)]).toEqual([headers, 403])
    // The types that a form can send (HTML Standard, 4.10.18.6).
    for (const type of ['application/x-www-form-urlencoded', 'multipart/form-data', 'text/plain'])
      expect([type, await from({}, type)]).toEqual([type, 415])
    expect(
      (await raw('DELETE', '/api/session', { 'cookie': cookies.worker, 'sec-fetch-site': 'cross-site' })).status,
    ).toBe(403)
    expect(
      (
        await raw(
          'POST',
          '/api/session',
          { 'content-type': 'application/x-www-form-urlencoded' },
          `email=worker%40${OURS}&password=harbour-demo`,
        )
      ).status,
    ).toBe(415)
    expect(
      (await raw('POST', '/api/audit-events/999999999/undo', { 'cookie': cookies.worker, 'content-type': 'text/plain' }, 'x'))
        .status,
    ).toBe(415)
    expect((await raw('GET', '/api/copies', { 'cookie': cookies.worker, 'sec-fetch-site': 'cross-site' })).status).toBe(
      403,
    )
    expect((await raw('GET', '/api/session', { cookie: cookies.worker })).text).toContain('"role":"worker"')
  })
  it('sets no cookie where there is no session', async () => {
    for (const cookie of ['', 'nuxt-session=nonsense', 'nuxt-session=Fe26.2**x', 'other=1'])
      for (const [method, path] of [
        ['GET', '/api/session'],
        ['DELETE', '/api/session'],
        ['GET', '/api/lists'],
        ['GET', '/api/health'],
      ] as const)
        expect([cookie, path, (await raw(method, path, cookie ? { cookie } : {})).headers.get('set-cookie')]).toEqual([
          cookie,
          path,
          null,
        ])
  })
})

describe('bodies: one who has not signed in would fill the memory', () => {
  /** Sends without saying how much it will be, until the server has had enough. */
  function drip(path: string, headers: string[], most: number): Promise<{ answer: string }> {
    return new Promise((resolve, reject) => {
      const { hostname, port } = new URL(gate.url)
      let answer = ''
      let sent = 0
      const socket = createConnection({ host: hostname, port: Number(port) })
      const chunk = Buffer.alloc(16 * 1024, ' ')
      socket.on('connect', () => {
        socket.write(
          [`POST ${path} HTTP/1.1`, `Host: ${hostname}:${port}`, 'Transfer-Encoding: chunked', ...headers, '', ''].join(
            '\r\n',
          ),
        )
        more()
      })
      socket.on('data', data => (answer += data.toString()))
      socket.on('error', () => undefined) // it hangs up while more is on its way
      socket.on('close', () => resolve({ answer }))
      setTimeout(() => reject(new Error('the connection stays open')), 60_000).unref()
      function more() {
        if (answer || socket.destroyed || sent >= most) {
          socket.end('0\r\n\r\n')
          return
        }
        sent += chunk.length
        socket.write(Buffer.concat([Buffer.from(`${chunk.length.toString(16)}\r\n`), chunk, Buffer.from('\r\n')]), () =>
          setImmediate(more),
        )
      }
    })
  }
  /** Of the application, in megabytes. */
  const memory = () => Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${gate.pid()}/status`, 'utf8'))![1]) / 1024
  it('reads 64 kB and no more before somebody has signed in, whatever the length is said to be', async () => {
    for (const path of ['/api/session', '/api/setup']) {
      const { answer } = await drip(path, ['Content-Type: application/json'], 4 * 1024 * 1024)
      expect([path, answer.slice(0, 12)]).toEqual([path, 'HTTP/1.1 413'])
      // Who goes on and on is not even told; it costs the memory of what was read until then.
      const before = memory()
      await drip(path, ['Content-Type: application/json'], 700 * 1024 * 1024)
      expect(memory() - before).toBeLessThan(200)
    }
    expect((await raw('POST', '/api/session', JSON_TYPE, `{"email":"${'x'.repeat(70_000)}"}`)).status).toBe(413)
  })
  it('and nothing at all of what nobody may send', async () => {
    const { answer } = await drip(
      '/api/imports',
      ['Content-Type: message/rfc822', 'Connection: close'],
      8 * 1024 * 1024,
    )
    expect(answer.slice(0, 12)).toBe('HTTP/1.1 401')
  })
  it('a worker sends 1 MB, an administrator 25 MB, and mail up to 25 MB comes in', async () => {
    const text = (mb: number) =>
      JSON.stringify({
        recipient: addressOf('worker'),
        from: 'a@x.test',
        subject: 's',
        text: 'word '.repeat((mb * 1024 * 1024) / 5 - 100),
      })
    const attempt = (who: Who, body: string) =>
      raw('POST', '/api/dry-run', { cookie: cookies[who], ...JSON_TYPE }, body).then(r => r.status)
    expect([
      await attempt('worker', text(1)),
      await attempt('worker', text(1.1)),
      await attempt('administrator', text(1.1)),
    ]).toEqual([200, 413, 200])
    expect(await attempt('administrator', ' '.repeat(25 * 1024 * 1024 + 1))).toBe(413)
    const large = `From: a@x.test\nSubject: large\n\n${'word word word\n'.repeat((24 * 1024 * 1024) / 15)}`
    expect(
      (
        await raw(
          'POST',
          `/api/imports?recipient=worker@${OURS}`,
          { 'cookie': cookies.administrator, 'content-type': 'message/rfc822' },
          large,
        )
      ).status,
    ).toBe(200)
  })
  it('what is no JSON, or too deep, is told so', async () => {
    const send = (body: string) => raw('POST', '/api/dry-run', { cookie: cookies.administrator, ...JSON_TYPE }, body)
    for (const body of [
      '{',
      '',
      'nonsense',
      '{"a":1}}',
      `${'['.repeat(100_000)}${']'.repeat(100_000)}`,
      `${'{"a":'.repeat(5000)}1${'}'.repeat(5000)}`,
      '"\\u',
    ])
      expect([body.slice(0, 10), (await send(body)).status]).toEqual([body.slice(0, 10), 400])
  })
})

describe('signing in: somebody would guess on, or sign others out', () => {
  // From a proxy of ours, which says who is behind it.
  const signInFrom = (address: string, email: string, password: string) => request(gate.url, '/api/session', {
    method: 'POST',
    localAddress: '127.0.0.9',
    headers: { ...JSON_TYPE, 'x-forwarded-for': address },
    body: JSON.stringify({ email, password }),
  })
  const guess = (email: string, address = '10.1.1.1') => signInFrom(address, email, 'wrong password').then(r => r.status)
  it('an address spelt otherwise is the same account', async () => {
    const other = addressOf('runa.keel')
    const ways = [
      other,
      other.toUpperCase(),
      `runa.keel@\u00AD${OURS}`,
      `runa.keel@${OURS}.`,
      ` ${other} `,
      `runa.keel@saltmere\uFF0Dharbour.example`,
      `<${other}>`,
      `runa.keel@saltmere-harbour\u3002example`,
      `"runa.keel"@${OURS}`,
      `RUNA.keel@${OURS}..`,
    ]
    const answers = []
    for (const way of ways) answers.push(await guess(way))
    expect(answers).toEqual(Array(10).fill(401))
    expect([await guess(other), await guess(`runa\u002Ekeel@${OURS}`)]).toEqual([429, 429])
    // The limit tells nobody whether the password would have been right.
    expect((await signInFrom('10.1.1.1', other, 'harbour-demo')).status).toBe(429)
    expect((await signInFrom('10.1.1.2', other, 'harbour-demo')).status).toBe(200)
  })
  it('many at once are counted too', async () => {
    const answers = await Promise.all(Array.from({ length: 30 }, () => guess(addressOf('emeka.strand'), '10.2.2.2')))
    expect(answers.filter(s => s === 401)).toHaveLength(10)
    expect(answers.filter(s => s === 429)).toHaveLength(20)
  })
  it('one client may not go through all accounts, nor all clients through one', async () => {
    /** As if 98 had been counted where one was: each guess costs as much as a right password does. */
    const after98 = async (counted: 'client' | 'account', guessOnce: () => Promise<number>) => {
      const before = await gate.ask.guessesCounted()
      expect(await guessOnce()).toBe(401)
      const after = await gate.ask.guessesCounted()
      const keys = [...after.keys()].filter(key => key.startsWith(counted) && before.get(key) !== after.get(key))
      expect(keys).toHaveLength(1)
      await gate.ask.countGuesses(keys[0]!, 98)
      return [await guessOnce(), await guessOnce(), await guessOnce()]
    }
    let n = 0
    expect(await after98('client', () => guess(`nobody-${n++}@${OURS}`, '10.3.3.3'))).toEqual([401, 401, 429])
    expect(await after98('account', () => guess(addressOf('dov.marchetti'), `10.4.4.${n++}`))).toEqual([401, 401, 429])
  })
  it('a restart, or another process, forgets nothing', async () => {
    for (let i = 0; i < 10; i++) await guess(addressOf('reviewer'), '10.5.5.5')
    await gate.kill()
    await gate.restart()
    expect(await guess(addressOf('reviewer'), '10.5.5.5')).toBe(429)
  })
  it('a cookie that was signed out ends nothing any more', async () => {
    const old = (await signIn(gate, 'worker')).cookie
    const out = (cookie: string) => raw('DELETE', '/api/session', { cookie }).then(r => r.status)
    const person = async (cookie: string) =>
      (JSON.parse((await raw('GET', '/api/session', { cookie })).text) as { person: object | null }).person
    expect(await out(old)).toBe(204)
    const fresh = (await signIn(gate, 'worker')).cookie
    expect(await person(fresh)).not.toBe(null)
    expect(await out(old)).toBe(204)
    expect([await person(fresh), await person(old)]).toEqual([expect.objectContaining({ role: 'worker' }), null])
    cookies.worker = fresh
  })
})
