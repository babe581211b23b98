// The doors of the running product, tried as somebody would who means to come in.
import { request as rawRequest } from 'node:http'
import { createConnection } from 'node:net'
import { readFileSync } from 'node:fs'
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { ACCESS, EVERYBODY, grantFor } from '../../server/access/routes'
import {
  callerFor,
  install,
  plainMessage,
  request,
  SETUP_TOKEN,
  TOKEN,
  type Caller,
  type Installation,
} from './support/installation'

const ROLES = ['administrator', 'reviewer', 'worker'] as const
type Who = (typeof ROLES)[number] | 'nobody'
const OURS = 'saltmere-harbour.example'
let gate: Installation
let cookies: Record<Who, string>
let admin: Caller

const JSON_TYPE = { 'content-type': 'application/json' }
const signIn = (email: string, password = 'harbour-demo', headers: Record<string, string> = {}) =>
  request(`${gate.url}/api/session`, {
    method: 'POST',
    headers: { ...JSON_TYPE, ...headers },
    body: JSON.stringify({ email, password }),
  })
const cookieOf = async (email: string) =>
  (await signIn(email)).headers
    .getSetCookie()
    .map(c => c.split(';')[0])
    .join('; ')

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'doors', { SOBER_GATE_PROXIES: '127.0.0.9' })
  cookies = {
    administrator: await cookieOf(`admin@${OURS}`),
    reviewer: await cookieOf(`reviewer@${OURS}`),
    worker: await cookieOf(`worker@${OURS}`),
    nobody: '',
  }
  admin = await callerFor(gate.url, `admin@${OURS}`)
})
afterAll(() => gate.stop())

/** A request line as it is written, which no client of ours would send. */
function raw(
  method: string,
  path: string,
  headers: Record<string, string> = {},
  body = '',
): Promise<{ status: number, text: string, headers: NodeJS.Dict<string | string[]> }> {
  return new Promise((resolve, reject) => {
    const { hostname, port } = new URL(gate.url)
    const sent = rawRequest(
      {
        hostname,
        port,
        method,
        path,
        agent: false,
        headers: { ...headers, ...(body ? { 'content-length': String(Buffer.byteLength(body)) } : {}) },
      },
      (answer) => {
        const chunks: Buffer[] = []
        answer
          .on('data', (c: Buffer) => chunks.push(c))
          .on('end', () =>
            resolve({ status: answer.statusCode!, text: Buffer.concat(chunks).toString(), headers: answer.headers }),
          )
      },
    )
    sent.on('error', reject).end(body)
  })
}

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
    for (const who of [...ROLES, 'nobody'] as const) {
      // Signing out would end the session that the next is tried with; what it lets in is tried below.
      if (path === '/api/session' && method === 'DELETE') continue
      const headers = { ...(cookies[who] ? { cookie: cookies[who] } : {}), ...JSON_TYPE }
      const body = method === 'GET' || method === 'DELETE' ? '' : '{}'
      const plain = await raw(method, path, headers, body)
      const allowed = roles === EVERYBODY || (who !== 'nobody' && roles.includes(who))
      if (allowed) expect([who, [401, 403, 500].includes(plain.status) && path !== '/api/setup']).toEqual([who, false])
      else expect([who, plain.status]).toEqual([who, who === 'nobody' ? 401 : 403])
      expect([path, plain.headers['cache-control']]).toEqual([path, 'no-store'])
      // "/api/lists/7.json" is the list of another id, and asked for as such.
      for (const other of spellings(path).filter(s => grantFor(method, s) === null)) {
        const { status, text } = await raw(method, other, headers, body)
        // Nothing of the API answers: not found, or the page that every other path shows.
        if (status === 200) expect([other, text.slice(0, 15)]).toEqual([other, '<!DOCTYPE html>'])
        else expect([other, status]).toEqual([other, status === 405 ? 405 : 404])
      }
    }
    expect(await versions()).toEqual(before)
  })
  async function versions() {
    return (await gate.database.query('select (select count(*) from versions) v, (select count(*) from copies) c'))
      .rows[0] as object
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
    const { rows } = await gate.database.query(
      `select a.direction, a.client, a.authentication ->> 'verdict' as verdict, c.received_at as at from attempts a join copies c on `
      + `c.attempt_id = a.id where c.id = $1`,
      [copies[0]!.id],
    )
    return rows[0] as Record<string, unknown>
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
    const query = `?recipient=worker@${OURS}&believe=true`
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
    expect((await send('?believe=perhaps', [])).status).toBe(400)
  })
})

describe('requests from elsewhere: a page of somebody else’s would move mail, sign in and sign out', () => {
  const from = (headers: Record<string, string>, type = 'application/json') =>
    raw(
      'POST',
      '/api/copies/judgement',
      { 'cookie': cookies.worker, 'content-type': type, ...headers },
      '{"ids":[999999999],"value":null}',
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
      (await raw('POST', '/api/acts/999999999/undo', { 'cookie': cookies.worker, 'content-type': 'text/plain' }, 'x'))
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
        expect([cookie, path, (await raw(method, path, cookie ? { cookie } : {})).headers['set-cookie']]).toEqual([
          cookie,
          path,
          undefined,
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
        recipient: `worker@${OURS}`,
        from: 'a@x.test',
        subject: 's',
        text: 'word '.repeat((mb * 1024 * 1024) / 5 - 100),
      })
    const attempt = (who: Who, body: string) =>
      raw('POST', '/api/try', { cookie: cookies[who], ...JSON_TYPE }, body).then(r => r.status)
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
    const send = (body: string) => raw('POST', '/api/try', { cookie: cookies.administrator, ...JSON_TYPE }, body)
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
  const guess = (email: string, address = '10.1.1.1') =>
    signInFrom(address, email, 'wrong password').then(r => r.status)
  // From a proxy of ours, which says who is behind it.
  const signInFrom = (address: string, email: string, password: string) =>
    new Promise<{ status: number }>((resolve, reject) => {
      const { hostname, port } = new URL(gate.url)
      const body = JSON.stringify({ email, password })
      rawRequest(
        {
          hostname,
          port,
          method: 'POST',
          path: '/api/session',
          agent: false,
          localAddress: '127.0.0.9',
          headers: { ...JSON_TYPE, 'x-forwarded-for': address, 'content-length': String(Buffer.byteLength(body)) },
        },
        answer => answer.resume().on('end', () => resolve({ status: answer.statusCode! })),
      )
        .on('error', reject)
        .end(body)
    })
  it('an address spelt otherwise is the same account', async () => {
    const other = `runa.keel@${OURS}`
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
    const answers = await Promise.all(Array.from({ length: 30 }, () => guess(`emeka.strand@${OURS}`, '10.2.2.2')))
    expect(answers.filter(s => s === 401)).toHaveLength(10)
    expect(answers.filter(s => s === 429)).toHaveLength(20)
  })
  it('one client may not go through all accounts, nor all clients through one', async () => {
    const one = []
    for (let i = 0; i < 101; i++) one.push(await guess(`nobody-${i}@${OURS}`, '10.3.3.3'))
    expect(one.filter(s => s === 429)).toHaveLength(1)
    const all = []
    for (let i = 0; i < 101; i++) all.push(await guess(`dov.marchetti@${OURS}`, `10.4.4.${i}`))
    expect(all.filter(s => s === 429)).toHaveLength(1)
  })
  it('a restart, or another process, forgets nothing', async () => {
    for (let i = 0; i < 10; i++) await guess(`reviewer@${OURS}`, '10.5.5.5')
    await gate.kill()
    await gate.restart()
    expect(await guess(`reviewer@${OURS}`, '10.5.5.5')).toBe(429)
  })
  it('a cookie that was signed out ends nothing any more', async () => {
    const old = await cookieOf(`worker@${OURS}`)
    const out = (cookie: string) => raw('DELETE', '/api/session', { cookie }).then(r => r.status)
    const person = async (cookie: string) =>
      (JSON.parse((await raw('GET', '/api/session', { cookie })).text) as { person: object | null }).person
    expect(await out(old)).toBe(204)
    const fresh = await cookieOf(`worker@${OURS}`)
    expect(await person(fresh)).not.toBe(null)
    expect(await out(old)).toBe(204)
    expect([await person(fresh), await person(old)]).toEqual([expect.objectContaining({ role: 'worker' }), null])
    cookies.worker = fresh
  })
})

describe('odd input: a fault of ours would hide what is wrong', () => {
  const ODD = [
    '\0',
    'a\0b',
    '\uD800',
    'x\uDFFFy',
    '\u202E',
    '',
    ' ',
    '0',
    '-1',
    '1e999',
    '99999999999999999999',
    'null',
    '[]',
    '{}',
    '../..',
    '%',
    '\'; drop table people; --',
    'x'.repeat(5000),
    '+275760-09-13T00:00:00.000Z',
    '-000001-01-01',
    '0000-00-00',
    '2027-02-30T25:61:00Z',
    '💥'.repeat(100),
  ]
  const VALUES: unknown[] = [...ODD, null, true, 0, -1, 2 ** 53, 1e308, [], {}, [['\0']], { a: { b: '\uD800' } }]
  const BODIES: Record<string, object> = {
    'POST /api/session': { email: `worker@${OURS}`, password: 'x' },
    'POST /api/setup': {
      token: SETUP_TOKEN,
      name: 'M',
      address: 'm@x.example',
      password: 'quite long enough',
      domains: ['x.example'],
      people: [{ name: 'N', address: 'n@x.example', role: 'worker', password: 'quite long enough' }],
    },
    'POST /api/copies/lane': {
      ids: [1],
      versions: { 1: 1 },
      lane: 'spam',
      quarantine: 'general',
      ownPlaces: true,
      judge: 'unwanted',
      reason: 'r',
    },
    'POST /api/mends': { ids: [1] },
    'POST /api/requests': { ids: [1], note: 'n' },
    'POST /api/requests/seen': { ids: [1] },
    'POST /api/requests/:id/answer': { give: false, reason: 'r' },
    'POST /api/givings-back': { clause: { kind: 'rule', id: 'nowhere' }, after: '2026-01-01', before: '2026-02-01', confirmed: false },
    'POST /api/review/emptying': { lane: 'bin', senders: ['a@x.test'], count: 1 },
    'POST /api/impact': { changes: [{ remove: 'rule', id: 'nowhere' }], whole: true, proposed: false },
    'POST /api/changes': {
      base: 1,
      changes: [{ remove: 'rule', id: 'nowhere' }],
      note: 'n',
      coming: true,
      existing: { lanes: ['inbox'], after: '2026-01-01', before: '2026-02-01', ids: [1] },
      confirmed: { broad: true, erases: 0 },
    },
    'POST /api/impact/parts': { changes: [{ remove: 'rule', id: 'nowhere' }] },
    'POST /api/proposals': { base: 1, changes: [{ remove: 'rule', id: 'nowhere' }], note: 'n', ids: [1] },
    'POST /api/proposals/seen': { ids: [1] },
    'POST /api/proposals/:id/answer': {
      accept: true,
      reason: 'r',
      base: 1,
      existing: { lanes: ['inbox'], after: '2026-01-01', before: '2026-02-01', ids: [1] },
      confirmed: { broad: true, erases: 0 },
    },
    'POST /api/try/sending': { recipient: `worker@${OURS}`, from: 'a@b.test', subject: 's', text: 't' },
    'POST /api/sketches': { ids: [1], then: { to: 'quarantine', quarantine: 'general' }, owner: 'organisation' },
    'POST /api/copies/judgement': {
      query: { words: 'zebra', lane: ['spam'], tag: 't', folder: 'f', after: '2026-01-01', except: [1] },
      value: 'wanted',
    },
    'POST /api/lists': {
      name: 'Odd',
      owner: 'organisation',
      usualSide: 'block',
      on: true,
      below: false,
      entries: 'odd.test',
      binding: { side: 'block', state: 'off', direction: 'inbound', stop: { to: 'quarantine', quarantine: 'general' } },
    },
    'PUT /api/lists/:id': { name: 'Odd', usualSide: 'block', on: true, version: 1 },
    'POST /api/lists/:id/entries': { text: 'odd.test', below: true, dry: false, as: 'domain', note: 'n', expires: '2030-01-01' },
    'PUT /api/lists/:id/entries': { ids: ['x'], seen: 1, note: 'n', expires: '2030-01-01' },
    'POST /api/lists/:id/removals': { ids: ['x'] },
    'POST /api/lists/:id/bindings': {
      owner: 'organisation',
      binding: { side: 'allow', state: 'off', counts: 'pass', protect: ['spam'] },
    },
    'PUT /api/bindings/:id': { binding: { side: 'allow', state: 'off' }, version: 1 },
    'POST /api/rules': {
      name: 'Odd',
      description: 'd',
      group: 'g',
      owner: 'organisation',
      state: 'off',
      when: {
        any: [
          { phrases: ['x', { text: 'y', near: { phrases: ['z'], within: 2 } }] },
          { sender: { kind: 'address', value: 'a@x.test' } },
          { date: { of: 'sent', after: '2020-01-01' } },
          { expression: 'a+b' },
          { senderOn: 'authorities' },
        ],
      },
      except: [],
      claims: [{ stop: { to: 'refuse', reply: 'no' } }],
      expires: '2030-01-01',
      reviewOn: '2030-01-01',
    },
    'PUT /api/rules/:id': {
      version: 1,
      name: 'Odd',
      owner: 'organisation',
      state: 'off',
      when: { header: 'x-odd' },
      except: [],
      claims: [{ effect: { kind: 'tag', value: 't' } }],
    },
    'POST /api/rules/order': { owner: 'organisation', ids: ['x'], version: 1 },
    'POST /api/quarantines': { name: 'Odd' },
    'PUT /api/quarantines/:id': {
      name: 'Odd',
      reviewers: ['nobody'],
      deputy: 'nobody',
      waitDays: 3,
      afterWait: 'bin',
      seen: true,
      told: false,
      mayAsk: true,
      mayRelease: false,
    },
    'PUT /api/session/password': { current: 'x', password: 'quite long enough' },
    'POST /api/invitations': { token: 'x', password: 'quite long enough' },
    'PUT /api/house': {
      version: 0,
      domains: [OURS],
      departments: [{ id: 'accounts', name: 'Accounts', parent: null }],
      relays: [{ network: '127.0.0.2/32', authservId: 'x' }],
      ownNetworks: ['10.0.0.0/8'],
      marks: [{ id: 'm', name: 'M', header: 'x-m', text: 'yes' }],
      publicProviders: ['x.test'],
      timeZone: 'UTC',
      publicAddress: 'https://x.example',
      keeping: { bin: null, spam: 3000, attempts: 3000 },
    },
    'POST /api/house/trials': {
      trace: {
        client: '203.0.113.9',
        headers: 'From: a@x.test',
        relays: [{ network: '127.0.0.2', authservId: 'x' }],
        ownNetworks: ['10.0.0.0/8'],
      },
    },
    'POST /api/house/people': { name: 'Odd', role: 'worker', addresses: ['odd@x.example'], shared: [], departments: ['accounts'] },
    'PUT /api/house/people/:id': { name: 'Odd', role: 'worker', addresses: ['odd@x.example'], shared: [], departments: ['accounts'] },
    'POST /api/house/people/:id/leaving': { heir: null },
    'POST /api/phrase-sets': {
      name: 'Odd',
      owner: 'organisation',
      phrases: ['x', { text: 'y', weight: 2, near: { phrases: ['z'], within: 3 } }],
      minimum: 2,
    },
    'PUT /api/phrase-sets/:id': { name: 'Odd', phrases: ['x'], version: 1 },
    'POST /api/try': {
      recipient: `worker@${OURS}`,
      from: 'a@x.test',
      subject: 's',
      text: 't',
      mailFrom: 'a@x.test',
      client: '203.0.113.9',
      authentication: 'none',
      inside: false,
    },
  }
  const QUERIES: Record<string, string[]> = {
    'GET /api/setup': ['token'],
    'GET /api/copies': [
      'words',
      'lane',
      'quarantine',
      'sender',
      'recipient',
      'judgement',
      'touchedBy',
      'act',
      'important',
      'tag',
      'folder',
      'after',
      'before',
      'cursor',
      'limit',
    ],
    'GET /api/copies/count': [
      'words',
      'lane',
      'quarantine',
      'sender',
      'recipient',
      'judgement',
      'touchedBy',
      'after',
      'before',
    ],
    'GET /api/copies/marks': [],
    'GET /api/review': ['lane', 'quarantine', 'by'],
    'GET /api/review/items': ['lane', 'quarantine', 'by', 'key', 'soon', 'telling', 'cursor', 'limit'],
    'DELETE /api/quarantines/:id': ['to'],
    'GET /api/attempts': ['sender', 'recipient', 'after', 'before', 'cursor', 'limit', 'as'],
    'GET /api/acts': ['before', 'limit', 'mine', 'undoable'],
    'GET /api/jobs': ['before', 'limit'],
    'GET /api/invitations': ['token'],
    'GET /api/house/people': ['words', 'after', 'limit'],
    'GET /api/lists/:id': ['words', 'after', 'limit'],
    'DELETE /api/lists/:id': ['version'],
    'DELETE /api/rules/:id': ['version'],
    'DELETE /api/bindings/:id': ['version'],
    'POST /api/imports': ['recipient', 'believe'],
    'GET /api/entries': ['words'],
    'GET /api/proposals': ['count'],
    'GET /api/lists/:id/file': ['as'],
  }
  /** The same form with one of its values, at whatever depth, replaced. */
  function* mutations(value: unknown): Generator<unknown> {
    yield* VALUES
    if (Array.isArray(value))
      for (const [i, v] of value.entries()) for (const other of mutations(v)) yield value.with(i, other)
    else if (value !== null && typeof value === 'object')
      for (const [k, v] of Object.entries(value)) for (const other of mutations(v)) yield { ...value, [k]: other }
  }
  const call = async (method: string, path: string, body?: unknown, type = 'application/json') =>
    raw(
      method,
      path,
      { cookie: cookies.administrator, ...(body === undefined ? {} : { 'content-type': type }) },
      body === undefined ? '' : typeof body === 'string' && type !== 'application/json' ? body : JSON.stringify(body),
    )
  const isOdd = (v: unknown): boolean =>
    typeof v === 'string'
      ? v.includes('\0') || !v.isWellFormed()
      : v !== null && typeof v === 'object' && Object.values(v).some(isOdd)

  it('names a form for every route that takes one', () => {
    const takes = Object.keys(ACCESS).filter(
      r => /^(?:POST|PUT) /.test(r) && ![
        'POST /api/imports',
        'POST /api/acts/:id/undo',
        'POST /api/house/people-file',
        'POST /api/lists/:id/file',
        'POST /api/house/people/:id/invitations',
      ].includes(r),
    )
    expect(takes.filter(r => !BODIES[r])).toEqual([])
  })
  it.each(Object.keys(ACCESS).filter(r => r !== 'DELETE /api/session'))('%s answers all of it', async (route) => {
    const [method, pattern] = route.split(' ') as [string, string]
    const table = /\/api\/(?:(lists|rules|bindings|phrase-sets)\/)?/.exec(pattern)![1]?.replace('-', '_')
    const id = table
      ? (
          (await gate.database.query(`select id from ${table} where to_version is null limit 1`)).rows[0] as {
            id: string
          }
        ).id
      : '999999999'
    const there = pattern.replace(':id', id)
    const tell = async (path: string, body?: unknown, type?: string) => {
      const { status, text } = await call(method, path, body, type)
      expect([path, JSON.stringify(body)?.slice(0, 300), status < 500 ? 'told' : text]).toEqual([
        path,
        JSON.stringify(body)?.slice(0, 300),
        'told',
      ])
      return { status, text }
    }
    const body = BODIES[route]
    if (pattern.includes(':id'))
      for (const id of ODD.map(encodeURIComponent_)) await tell(pattern.replace(':id', id || '-'), body)
    for (const name of QUERIES[route] ?? []) {
      for (const odd of ODD) {
        const { status } = await tell(
          `${there}?${name}=${encodeURIComponent_(odd)}`,
          route === 'POST /api/imports' ? 'From: a@x.test\n\nx' : undefined,
          route === 'POST /api/imports' ? 'message/rfc822' : undefined,
        )
        if (isOdd(odd) && !odd.includes('\uD800') && !odd.includes('\uDFFF'))
          expect([route, name, status]).toEqual([route, name, 400])
      }
      await tell(
        `${there}?${name}=a&${name}=b`,
        route === 'POST /api/imports' ? 'x' : undefined,
        route === 'POST /api/imports' ? 'message/rfc822' : undefined,
      )
    }
    if (!body) return
    let tried = 0
    for (const other of mutations(body)) {
      // What signs in wrongly is limited after a while, which would be all that is seen.
      if (route === 'POST /api/session' && ++tried > 60) break
      if (route === 'PUT /api/session/password' && ++tried > 20) break
      const { status, text } = await tell(there, other)
      if (isOdd(other) && status !== 429 && (route !== 'POST /api/setup' || status !== 403)) {
        expect([JSON.stringify(other).slice(0, 200), status]).toEqual([
          JSON.stringify(other).slice(0, 200),
          status === 422 ? 422 : 400,
        ])
        expect(JSON.parse(text).detail.length).toBeGreaterThan(5)
      }
    }
  })
  // Lone surrogates cannot be written in a URL as such; their bytes can.
  function encodeURIComponent_(text: string): string {
    return text.isWellFormed()
      ? encodeURIComponent(text)
      : [...text]
          .map(c =>
            c.isWellFormed()
              ? encodeURIComponent(c)
              : [...Buffer.from([0xed, 0xa0, 0x80])].map(b => `%${b.toString(16)}`).join(''),
          )
          .join('')
  }
  it('cursors that were never given out are refused, and say so', async () => {
    const cursor = (value: unknown) => Buffer.from(JSON.stringify(value)).toString('base64url')
    for (const odd of [
      'x',
      '!!!',
      cursor({}),
      cursor([1]),
      cursor([8.64e15 + 1, 1]),
      cursor([-1, 1]),
      cursor([1e300, 1]),
      cursor(['a', 'b']),
      cursor([0.5, 1]),
      cursor([null, null]),
    ]) {
      const answer = await call('GET', `/api/copies?cursor=${encodeURIComponent(odd)}`)
      expect([odd, answer.status, JSON.parse(answer.text).detail]).toEqual([
        odd,
        400,
        expect.stringContaining('cursor'),
      ])
    }
    const { body } = await admin('GET', '/api/copies?limit=1')
    expect((await admin('GET', `/api/copies?limit=1&cursor=${body.next}`)).status).toBe(200)
  })
  it('leaves no parameter in the log', () => {
    const log = readFileSync(gate.log, 'utf8')
    expect(log).not.toMatch(/params:|scrypt:\d/)
    expect(log).not.toContain('a request failed')
  })
})
