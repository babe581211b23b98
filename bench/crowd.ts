import { createConnection, type Socket } from 'node:net'
import { setTimeout as sleep } from 'node:timers/promises'
import { generate } from '../demo'
import { HOSTILE } from '../tests/support/hostile-shapes'
import { install, TOKEN } from './installation'
import type { Figures } from './measure'
import { SmtpClient } from './smtp-client'

const MESSAGES = 3000
const CLIENTS = 20
const DRIPPING = 40
const PASTES = 16
const LINES = 50_000
const COSTLY = 25 * 1000 * 1000
const RECIPIENT = 'worker@saltmere-harbour.example'

/** Ordinary mail while others try to keep everybody waiting: costly messages, connections that drip, and large pastes. */
export async function crowd(figures: Figures): Promise<void> {
  const gate = await install(300)
  const shapes = Object.entries(HOSTILE).slice(0, 3)
  const began = performance.now()
  let over = false

  const dripping = drip(gate.smtpPort)
  const costly = shapes.map(async ([, make], i) => {
    const client = await SmtpClient.connect(gate.smtpPort, `127.0.3.${i + 1}`)
    const reply = await client.handOver('a@costly.test', [RECIPIENT], Buffer.from(make(COSTLY), 'latin1'))
    client.close()
    return reply
  })
  const pastes = Array.from({ length: PASTES }, (_, i) => paste(gate.url, i))
  const health = watchHealth(gate.url, () => over)

  const mail = [...generate(new Date('2026-11-24'), MESSAGES)]
  let next = 0
  const waits: number[] = []
  const failed: string[] = []
  await Promise.all(
    Array.from({ length: CLIENTS }, async (_, i) => {
      const client = await SmtpClient.connect(gate.smtpPort, `127.0.2.${i + 1}`)
      while (next < MESSAGES) {
        const n = next++
        const bytes = Buffer.concat([Buffer.from(`X-Number: ${n}\r\n`), mail[n % mail.length]!.bytes])
        const start = performance.now()
        const reply = await client.handOver('a@ordinary.test', [RECIPIENT], bytes)
        waits.push(performance.now() - start)
        if (!reply.startsWith('250')) failed.push(reply)
      }
      client.close()
    }),
  )
  const seconds = (performance.now() - began) / 1000
  const costlyReplies = await Promise.all(costly)
  const pasted = await Promise.all(pastes)
  over = true
  const healths = await health
  dripping.end()

  const most = (values: readonly number[]) => Math.max(...values) / 1000
  figures.add(
    `${MESSAGES} messages of ${CLIENTS} clients beside ${shapes.length} costly ones, ${DRIPPING} dripping connections, ${PASTES} large `
    + `pastes`,
    seconds,
    's',
    '',
    null,
  )
  figures.add('the longest that an ordinary one waited', most(waits), 's', 'under 5', most(waits) < 5)
  figures.add('ordinary ones that were not taken', failed.length, '', '0', failed.length === 0)
  figures.add('the longest that health took', most(healths.times), 's', 'under 1', most(healths.times) < 1)
  figures.add('times that health did not say ok', healths.bad, '', '0', healths.bad === 0)
  figures.add(
    'costly ones that were answered',
    costlyReplies.filter(r => /^[25]/.test(r)).length,
    '',
    String(shapes.length),
    costlyReplies.every(r => /^[25]/.test(r)),
  )
  figures.add(
    'pastes that were made',
    pasted.filter(s => s === 201).length,
    '',
    String(PASTES),
    pasted.every(s => s === 201),
  )
  await gate.stop()
}

/**
 * Every route that takes a body is sent the largest that it takes, one after the other, while one client hands over ordinary mail: how
 * long health and mail waited at most.
 */
export async function largestBodies(figures: Figures): Promise<void> {
  const gate = await install(300)
  let over = false
  const health = watchHealth(gate.url, () => over, 5)
  const waits: number[] = []
  const mail = [...generate(new Date('2026-11-24'), 200)]
  const handing = (async () => {
    const client = await SmtpClient.connect(gate.smtpPort, '127.0.2.1')
    for (let n = 0; !over; n++) {
      const bytes = Buffer.concat([Buffer.from(`X-Number: ${n}\r\n`), mail[n % mail.length]!.bytes])
      const start = performance.now()
      await client.handOver('a@ordinary.test', [RECIPIENT], bytes)
      waits.push(performance.now() - start)
    }
    client.close()
  })()
  const slowest: [string, number][] = []
  for (const [route, body] of Object.entries(largest())) {
    const start = performance.now()
    const { times } = await beside(gate.url, () => send(gate.url, route, body))
    slowest.push([route, Math.max(...times)])
    process.stdout.write(`  ${route}: ${(performance.now() - start).toFixed(0)} ms, health waited ${Math.max(...times).toFixed(0)} ms\n`)
  }
  over = true
  const { times, bad } = await health
  await handing
  const [route] = slowest.sort((a, b) => b[1] - a[1])[0]!
  figures.add('each route with its largest body', slowest.length, 'routes', '', null)
  figures.add(`the longest that health waited beside them (${route})`, Math.max(...times), 'ms', 'under 100', Math.max(...times) < 100)
  figures.add('times that health did not say ok', bad, '', '0', bad === 0)
  figures.add('the longest that mail waited', Math.max(...waits) / 1000, 's', 'under 1', Math.max(...waits) < 1000)
  await gate.stop()
}

/** The largest body of each route that grows with what is sent. */
function largest(): Record<string, object> {
  const rules = Array.from({ length: 1000 }, (_, n) => ({
    put: 'rule',
    rule: {
      id: `large-${n}`,
      name: `Large ${n}`,
      owner: 'organisation',
      state: 'acting',
      when: { any: Array.from({ length: 20 }, (_, p) => ({ phrases: [`phrase ${n} ${p}`] })) },
      except: [],
      claims: [{ stop: { to: 'spam' } }],
    },
  }))
  const addresses = (n: number) => Array.from({ length: n }, (_, i) => ({ kind: 'address', value: `person${i}@large${i % 500}.test` }))
  const list = { put: 'list', list: { id: 'large', name: 'Large', owner: 'organisation', usualSide: 'block', on: true } }
  const one = (n: number) => ({ put: 'entries', list: 'large', entries: [{ kind: 'address', value: `p${n}@large.test` }] })
  const entries = [list, { put: 'entries', list: 'large', entries: addresses(40_000) }]
  const small = [list, ...Array.from({ length: 999 }, (_, n) => one(n))]
  const changes = (of: object[]) => ({ base: 0, changes: of, coming: true, confirmed: { broad: true } })
  const text = 'word '.repeat(299_000)
  return {
    'POST /api/impact (rules)': { changes: rules },
    'POST /api/impact (entries)': { changes: entries },
    'POST /api/impact (many changes)': { changes: small },
    'POST /api/changes (rules)': changes(rules),
    'POST /api/changes (many changes)': changes(small),
    'POST /api/changes (a wrong one in all)': changes(rules.map(r => ({ ...r, rule: { ...r.rule, claims: [{ stop: { to: 'nowhere' } }] } }))),
    'POST /api/proposals': { base: 0, changes: rules.slice(0, 100), note: 'n' },
    'POST /api/impact/parts': { changes: [{ ...rules[0], rule: { ...rules[0]!.rule, when: { phrases: Array.from({ length: 5000 }, (_, n) => `phrase ${n}`) } } }] },
    'POST /api/rules': { ...rules[0]!.rule, id: undefined, when: { phrases: Array.from({ length: 5000 }, (_, n) => `phrase ${n}`) } },
    'POST /api/phrase-sets': { name: 'Large', owner: 'organisation', phrases: Array.from({ length: 5000 }, (_, n) => `phrase ${n}`) },
    'POST /api/lists': { name: 'Large paste', owner: 'organisation', usualSide: 'block', binding: null, entries: addresses(100_000).map(a => a.value).join('\n') },
    'POST /api/try': { recipient: RECIPIENT, from: 'a@x.test', subject: 's', text },
    'POST /api/copies/lane': { ids: Array.from({ length: 2000 }, (_, n) => n + 1), lane: 'spam' },
    'POST /api/rules/order': { owner: 'organisation', ids: Array.from({ length: 10_000 }, (_, n) => `r${n}`), version: 1 },
    'POST /api/session (25 MB)': { email: 'a@x.test', password: 'x'.repeat(25_000_000) },
  }
}

async function send(url: string, route: string, body: object): Promise<void> {
  const [method, path] = route.split(' ') as [string, string]
  const version = ((await (await fetch(`${url}/api/directory`, { headers: AUTHORIZED })).json()) as { policy: { version: number } }).policy.version
  const text = JSON.stringify('base' in body ? { ...body, base: version } : body)
  // A body that is too large may end the connection before all of it was sent.
  const response = await fetch(`${url}${path}`, { method, headers: { 'content-type': 'application/json', ...AUTHORIZED }, body: text }).catch(() => null)
  await response?.text().catch(() => '')
}

async function beside(url: string, work: () => Promise<void>): Promise<{ times: number[] }> {
  let over = false
  const health = watchHealth(url, () => over, 5)
  await work()
  over = true
  return health
}

const AUTHORIZED = { authorization: `Bearer ${TOKEN}` }

// All from one client, a byte every five seconds.
function drip(port: number): { end(): void } {
  const sockets: Socket[] = Array.from({ length: DRIPPING }, () =>
    createConnection({ port, host: '127.0.0.1', localAddress: '127.0.4.1' }).on('error', () => undefined),
  )
  const timer = setInterval(() => {
    for (const socket of sockets) if (socket.writable) socket.write('N')
  }, 5000)
  return {
    end() {
      clearInterval(timer)
      for (const socket of sockets) socket.destroy()
    },
  }
}

async function paste(url: string, number: number): Promise<number> {
  const entries = Array.from({ length: LINES }, (_, i) => `person${i}@paste${number}-${i % 500}.test`).join('\n')
  const response = await fetch(`${url}/api/lists`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', 'authorization': `Bearer ${TOKEN}` },
    body: JSON.stringify({
      name: `Paste ${number}`,
      owner: 'organisation',
      usualSide: 'block',
      binding: { side: 'block', state: 'acting', stop: { to: 'spam' } },
      entries,
    }),
  })
  await response.text()
  return response.status
}

async function watchHealth(url: string, isOver: () => boolean, every = 100): Promise<{ times: number[], bad: number }> {
  const times: number[] = []
  let bad = 0
  while (!isOver()) {
    const start = performance.now()
    const response = await fetch(`${url}/api/health`)
    await response.text()
    times.push(performance.now() - start)
    if (!response.ok) bad++
    await sleep(every)
  }
  return { times, bad }
}
