// Every route is given what no form of ours would send: it is told what is wrong, and nothing of it is our fault.
import { readFileSync } from 'node:fs'
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { ACCESS } from '../../server/access/routes'
import { type Caller, keptConnections, request, signIn } from '../support/http'
import { install, type Installation, SETUP_TOKEN } from '../support/installation'
import { addressOf, OURS } from '../support/office'
import { eachOf } from '../support/parallel'

let gate: Installation
let admin: Caller

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'odd_input')
  admin = await signIn(gate, 'admin')
})
afterAll(() => gate.stop())

const BATCH_SIZE = 8
const agent = keptConnections(BATCH_SIZE)

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
    'POST /api/session': { email: addressOf('worker'), password: 'x' },
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
      mark: 'unwanted',
      reason: 'r',
    },
    'POST /api/fixes': { ids: [1] },
    'POST /api/fixes/together': { ids: [1], fixes: [{ sentence: 's', changes: [{ type: 'remove', kind: 'rule', id: 'nowhere' }] }] },
    'POST /api/release-requests': { ids: [1], note: 'n' },
    'POST /api/release-requests/seen': { ids: [1] },
    'POST /api/release-requests/:id/answer': { release: false, reason: 'r' },
    'POST /api/returns': { clause: { kind: 'rule', id: 'nowhere' }, after: '2026-01-01', before: '2026-02-01', confirmed: false },
    'POST /api/review/purge': { lane: 'bin', senders: ['a@x.test'], count: 1 },
    'POST /api/impact': { changes: [{ type: 'remove', kind: 'rule', id: 'nowhere' }], proposed: false },
    'POST /api/impact/hits': { changes: [{ type: 'remove', kind: 'rule', id: 'nowhere' }], proposed: false, ids: [1] },
    'POST /api/changes': {
      base: 1,
      changes: [{ type: 'remove', kind: 'rule', id: 'nowhere' }],
      note: 'n',
      coming: true,
      existing: { lanes: ['inbox'], after: '2026-01-01', before: '2026-02-01', ids: [1] },
      confirmed: { broad: true, erases: 0 },
    },
    'POST /api/impact/parts': { changes: [{ type: 'remove', kind: 'rule', id: 'nowhere' }] },
    'POST /api/proposals': { base: 1, changes: [{ type: 'remove', kind: 'rule', id: 'nowhere' }], note: 'n', ids: [1] },
    'POST /api/proposals/seen': { ids: [1] },
    'POST /api/proposals/:id/answer': {
      accept: true,
      reason: 'r',
      base: 1,
      existing: { lanes: ['inbox'], after: '2026-01-01', before: '2026-02-01', ids: [1] },
      confirmed: { broad: true, erases: 0 },
    },
    'POST /api/dry-run/send': { recipient: addressOf('worker'), from: 'a@b.test', subject: 's', text: 't' },
    'POST /api/suggestions': { ids: [1], then: { to: 'quarantine', quarantine: 'general' }, owner: 'organisation' },
    'POST /api/copies/judgement': {
      query: { words: 'zebra', lane: ['spam'], tag: 't', folder: 'f', after: '2026-01-01', except: [1] },
      value: 'wanted',
    },
    'POST /api/lists': {
      name: 'Odd',
      owner: 'organisation',
      usualSide: 'block',
      enabled: true,
      below: false,
      entries: 'odd.test',
      assignment: { side: 'block', state: 'disabled', direction: 'inbound', stop: { to: 'quarantine', quarantine: 'general' } },
    },
    'PUT /api/lists/:id': { name: 'Odd', usualSide: 'block', enabled: true, version: 1 },
    'POST /api/lists/:id/entries': { text: 'odd.test', below: true, dry: false, as: 'domain', note: 'n', expires: '2030-01-01' },
    'PUT /api/lists/:id/entries': { ids: ['x'], seen: 1, note: 'n', expires: '2030-01-01' },
    'POST /api/lists/:id/removals': { ids: ['x'] },
    'POST /api/lists/:id/assignments': {
      owner: 'organisation',
      assignment: { side: 'allow', state: 'disabled', counts: 'verified', protect: ['spam'] },
    },
    'PUT /api/assignments/:id': { assignment: { side: 'allow', state: 'disabled' }, version: 1 },
    'POST /api/rules': {
      name: 'Odd',
      description: 'd',
      group: 'g',
      owner: 'organisation',
      state: 'disabled',
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
      state: 'disabled',
      when: { header: 'x-odd' },
      except: [],
      claims: [{ effect: { kind: 'tag', value: 't' } }],
    },
    'POST /api/rules/order': { owner: 'organisation', ids: ['x'], version: 1 },
    'POST /api/quarantines': { name: 'Odd' },
    'PUT /api/quarantines/:id': {
      version: 1,
      reviewers: ['nobody'],
      deputy: 'nobody',
      waitDays: 3,
      afterWait: 'bin',
      visible: true,
      notified: false,
      canRequest: true,
      canRelease: false,
    },
    'PUT /api/session/password': { current: 'x', password: 'quite long enough' },
    'POST /api/invitations': { token: 'x', password: 'quite long enough' },
    'PUT /api/settings': {
      version: 0,
      domains: [OURS],
      departments: [{ id: 'accounts', name: 'Accounts', parent: null }],
      relays: [{ network: '127.0.0.2/32', authservId: 'x' }],
      ownNetworks: ['10.0.0.0/8'],
      upstreamVerdicts: [{ id: 'm', name: 'M', header: 'x-m', text: 'yes' }],
      publicProviders: ['x.test'],
      timeZone: 'UTC',
      publicAddress: 'https://x.example',
      retention: { bin: null, spam: 3000, attempts: 3000 },
    },
    'POST /api/settings/tests': {
      trace: {
        client: '203.0.113.9',
        headers: 'From: a@x.test',
        relays: [{ network: '127.0.0.2', authservId: 'x' }],
        ownNetworks: ['10.0.0.0/8'],
      },
    },
    'POST /api/users': { name: 'Odd', role: 'worker', addresses: ['odd@x.example'], shared: [], departments: ['accounts'] },
    'PUT /api/users/:id': {
      version: 1,
      name: 'Odd',
      role: 'worker',
      addresses: ['odd@x.example'],
      shared: [],
      departments: ['accounts'],
    },
    'POST /api/users/:id/deactivation': { successor: null, version: 1, addresses: [{ address: addressOf('worker'), successor: null }] },
    'POST /api/newly-stopped/seen': { clause: 'r' },
    'POST /api/lists/report': { owner: 'organisation', side: 'block', text: 'a@x.test', below: false },
    'POST /api/phrase-sets': {
      name: 'Odd',
      owner: 'organisation',
      phrases: ['x', { text: 'y', weight: 2, near: { phrases: ['z'], within: 3 } }],
      minimum: 2,
    },
    'PUT /api/phrase-sets/:id': { name: 'Odd', phrases: ['x'], version: 1 },
    'POST /api/dry-run': {
      recipient: addressOf('worker'),
      from: 'a@x.test',
      subject: 's',
      text: 't',
      mailFrom: 'a@x.test',
      client: '203.0.113.9',
      authentication: 'none',
      inside: false,
    },
  }
  const FILTERS = ['words', 'lane', 'quarantine', 'sender', 'recipient', 'judgement', 'touchedBy']
  const QUERIES: Record<string, string[]> = {
    'GET /api/setup': ['token'],
    'GET /api/copies': [
      ...FILTERS,
      'act',
      'important',
      'tag',
      'folder',
      'after',
      'before',
      'cursor',
      'limit',
    ],
    // The schema of its filters is that of /api/copies.
    'GET /api/copies/count': ['words', 'after'],
    'GET /api/copies/labels': [],
    'GET /api/senders': ['words', 'kinds', 'limit'],
    'GET /api/lists/:id/copy': ['owner'],
    'DELETE /api/copies/:id': ['version'],
    'GET /api/review': ['lane', 'quarantine', 'by'],
    'GET /api/review/items': ['lane', 'quarantine', 'by', 'key', 'soon', 'informative', 'cursor', 'limit'],
    'DELETE /api/quarantines/:id': ['to', 'version'],
    'POST /api/users/csv': ['dry', 'version'],
    'GET /api/attempts': ['words', 'sender', 'recipient', 'after', 'before', 'cursor', 'limit', 'as'],
    'GET /api/audit-events': ['person', 'kind', 'after', 'before', 'rule', 'list', 'cursor', 'limit', 'mine', 'undoable'],
    'GET /api/audit-events/csv': ['person', 'kind', 'after', 'before'],
    'GET /api/jobs': ['before', 'limit'],
    'GET /api/invitations': ['token'],
    'GET /api/users': ['words', 'after', 'limit'],
    'GET /api/lists/:id': ['words', 'after', 'limit'],
    'DELETE /api/lists/:id': ['version'],
    'DELETE /api/rules/:id': ['version'],
    'DELETE /api/assignments/:id': ['version'],
    'POST /api/imports': ['recipient', 'trustReceived'],
    'GET /api/entries': ['words'],
    'GET /api/proposals': ['count'],
    'GET /api/lists/:id/file': ['as'],
  }
  /** Put into every place of a form; of the others each place gets some, and all places together all. */
  const EVERYWHERE: unknown[] = ['\0', '', 'x'.repeat(5000), null, -1, 2 ** 53, {}]
  const OTHER_MAIL = VALUES.filter(v => !EVERYWHERE.includes(v))
  const SOME = 2
  /** Ways to replace one of a form's values, at whatever depth. */
  function* places(value: unknown): Generator<(other: unknown) => unknown> {
    if (Array.isArray(value))
      for (const [i, v] of value.entries()) {
        yield other => value.with(i, other)
        for (const inside of places(v)) yield other => value.with(i, inside(other))
      }
    else if (value !== null && typeof value === 'object')
      for (const [k, v] of Object.entries(value)) {
        yield other => ({ ...value, [k]: other })
        for (const inside of places(v)) yield other => ({ ...value, [k]: inside(other) })
      }
  }
  /** The same form with one of its values replaced, and what is no form at all. */
  function* mutations(form: unknown): Generator<unknown> {
    yield* VALUES
    let at = 0
    for (const put of places(form)) {
      for (const odd of EVERYWHERE) yield put(odd)
      for (let n = 0; n < SOME; n++) yield put(OTHER_MAIL[at++ % OTHER_MAIL.length])
    }
  }
  const call = async (method: string, path: string, body?: unknown, type = 'application/json') =>
    request(gate.url, path, {
      method,
      headers: { cookie: admin.cookie, ...(body === undefined ? {} : { 'content-type': type }) },
      body: body === undefined ? '' : typeof body === 'string' && type !== 'application/json' ? body : JSON.stringify(body),
      agent,
    })
  const isOdd = (v: unknown): boolean =>
    typeof v === 'string'
      ? v.includes('\0') || !v.isWellFormed()
      : v !== null && typeof v === 'object' && Object.values(v).some(isOdd)

  it('names a form for every route that takes one', () => {
    const takes = Object.keys(ACCESS).filter(
      r => /^(?:POST|PUT) /.test(r) && ![
        'POST /api/imports',
        'POST /api/audit-events/:id/undo',
        'POST /api/users/csv',
        'POST /api/lists/:id/file',
        'POST /api/users/:id/invitations',
        'POST /api/settings/unverified',
      ].includes(r),
    )
    expect(takes.filter(r => !BODIES[r])).toEqual([])
  })
  it.each(Object.keys(ACCESS).filter(r => r !== 'DELETE /api/session'))('%s answers all of it', async (route) => {
    const [method, pattern] = route.split(' ') as [string, string]
    const tables = { 'lists': 'lists', 'rules': 'rules', 'assignments': 'assignments', 'phrase-sets': 'phraseSets' } as const
    const table = tables[/\/api\/([^/]*)/.exec(pattern)![1] as keyof typeof tables]
    const id = table ? await gate.ask.someIdOf(table) : '999999999'
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
      await eachOf(ODD.map(encodeURIComponent_), BATCH_SIZE, odd => tell(pattern.replace(':id', odd || '-'), body))
    const file = route === 'POST /api/imports' ? (['From: a@x.test\n\nx', 'message/rfc822'] as const) : []
    for (const name of QUERIES[route] ?? []) {
      await eachOf(ODD, BATCH_SIZE, async (odd) => {
        const { status } = await tell(`${there}?${name}=${encodeURIComponent_(odd)}`, ...file)
        if (isOdd(odd) && !odd.includes('\uD800') && !odd.includes('\uDFFF'))
          expect([route, name, status]).toEqual([route, name, 400])
      })
      await tell(`${there}?${name}=a&${name}=b`, ...file)
    }
    if (!body) return
    // What signs in wrongly is limited after a while, which would be all that is seen.
    const most = { 'POST /api/session': 60, 'PUT /api/session/password': 20 }[route] ?? Infinity
    await eachOf([...mutations(body)].slice(0, most), BATCH_SIZE, async (other) => {
      const { status, text } = await tell(there, other)
      if (!isOdd(other) || status === 429 || (route === 'POST /api/setup' && status === 403)) return
      expect([JSON.stringify(other).slice(0, 200), status]).toEqual([JSON.stringify(other).slice(0, 200), status === 422 ? 422 : 400])
      expect(JSON.parse(text).detail.length).toBeGreaterThan(5)
    })
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
