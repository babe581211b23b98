import { setTimeout as sleep } from 'node:timers/promises'
import { generate } from '../demo'
import { watchHealth } from './health-watch'
import { AUTHORIZED, install, RECIPIENT } from './installation'
import type { Figures } from './measure'
import { SmtpClient } from './smtp-client'

/** Milliseconds. */
const BASELINE = 10_000
const ROUNDS = 3

/**
 * Every route that takes a body is sent the largest that it takes, one after the other, while one client hands over ordinary mail: how
 * long health and mail waited at most. The best of some rounds, each on an installation of its own: what keeps others waiting does so
 * each time, a pause of the machine does not come each time at one place.
 */
export async function largestBodies(figures: Figures): Promise<void> {
  const waited = { health: new Map<string, number>(), mail: new Map<string, number>() }
  const note = (to: Map<string, number>, route: string, ms: number) => to.set(route, Math.min(ms, to.get(route) ?? Infinity))
  let bad = 0
  for (let round = 0; round < ROUNDS; round++) {
    const gate = await install(300)
    const handing = await handOver(gate.smtpPort)
    for (const [route, body] of [[ALONE, null], ...Object.entries(largest())] as [string, object | null][]) {
      const health = await watchHealth(gate.url, 5)
      handing.waits.length = 0
      const start = performance.now()
      await (body ? send(gate.url, route, body) : sleep(BASELINE))
      const took = performance.now() - start
      const watched = await health.stop()
      await handing.next()
      const [longest, mail] = [Math.max(...watched.times), Math.max(...handing.waits)]
      note(waited.health, route, longest)
      note(waited.mail, route, mail)
      bad += watched.bad
      process.stdout.write(`  ${route}: ${took.toFixed(0)} ms, health waited ${longest.toFixed(0)} ms, mail ${mail.toFixed(0)} ms\n`)
    }
    await handing.stop()
    await gate.stop()
  }
  figures.add('each route with its largest body', waited.health.size - 1, 'routes', '', null)
  figures.add(`the longest that health waited ${ALONE}`, waited.health.get(ALONE)!, 'ms', '', null)
  waited.health.delete(ALONE)
  waited.mail.delete(ALONE)
  const [route, longest] = highest(waited.health)
  const [mailRoute, mailLongest] = highest(waited.mail)
  const best = `the best of ${ROUNDS} rounds`
  figures.add(`the longest that health waited beside one, ${best} (${route})`, longest, 'ms', 'under 100', longest < 100)
  figures.add('times that health did not say ok', bad, '', '0', bad === 0)
  figures.add(`the longest that mail waited, likewise (${mailRoute})`, mailLongest / 1000, 's', 'under 1', mailLongest < 1000)
}

/** What this machine takes away by itself. */
const ALONE = 'beside mail alone'

/** Hands over mail without a pause, until it is stopped. */
async function handOver(port: number): Promise<{ waits: number[], next(): Promise<void>, stop(): Promise<void> }> {
  const client = await SmtpClient.connect(port, '127.0.2.1')
  const mail = [...generate(new Date('2026-11-24'), 200)]
  const waits: number[] = []
  let over = false
  let handed = 0
  const all = (async () => {
    for (; !over; handed++) {
      const bytes = Buffer.concat([Buffer.from(`X-Number: ${handed}\r\n`), mail[handed % mail.length]!.bytes])
      const start = performance.now()
      await client.handOver('a@ordinary.test', [RECIPIENT], bytes)
      waits.push(performance.now() - start)
    }
    client.close()
  })()
  return {
    waits,
    async next() {
      for (const before = handed; handed === before;) await sleep(5)
    },
    stop() {
      over = true
      return all
    },
  }
}

const highest = (of: Map<string, number>) => [...of].sort((a, b) => b[1] - a[1])[0]!

/** The largest body of each route that grows with what is sent. */
function largest(): Record<string, object> {
  const rules = Array.from({ length: 1000 }, (_, n) => ({
    type: 'put',
    kind: 'rule',
    value: {
      id: `large-${n}`,
      name: `Large ${n}`,
      owner: 'organisation',
      state: 'enabled',
      when: { any: Array.from({ length: 20 }, (_, p) => ({ phrases: [`phrase ${n} ${p}`] })) },
      except: [],
      claims: [{ stop: { to: 'spam' } }],
    },
  }))
  const addresses = (n: number) => Array.from({ length: n }, (_, i) => ({ kind: 'address', value: `person${i}@large${i % 500}.test` }))
  const LIST = 'large'
  const list = { type: 'put', kind: 'list', value: { id: LIST, name: 'Large', owner: 'organisation', usualSide: 'block', enabled: true } }
  const putEntries = (entries: object[]) => ({ type: 'put', kind: 'entries', list: LIST, entries })
  const one = (n: number) => putEntries([{ kind: 'address', value: `p${n}@large.test` }])
  const entries = [list, putEntries(addresses(40_000))]
  const small = [list, ...Array.from({ length: 999 }, (_, n) => one(n))]
  const changes = (of: object[]) => ({ base: 0, changes: of, coming: true, confirmed: { broad: true } })
  const text = 'word '.repeat(299_000)
  const phrases = Array.from({ length: 5000 }, (_, n) => `phrase ${n}`)
  const [first] = rules
  const wrong = rules.map(r => ({ ...r, value: { ...r.value, claims: [{ stop: { to: 'nowhere' } }] } }))
  const pasted = addresses(100_000).map(a => a.value).join('\n')
  return {
    'POST /api/impact (rules)': { changes: rules },
    'POST /api/impact (entries)': { changes: entries },
    'POST /api/impact (many changes)': { changes: small },
    'POST /api/changes (rules)': changes(rules),
    'POST /api/changes (many changes)': changes(small),
    'POST /api/changes (a wrong one in all)': changes(wrong),
    'POST /api/proposals': { base: 0, changes: rules.slice(0, 100), note: 'n' },
    'POST /api/impact/parts': { changes: [{ ...first, value: { ...first!.value, when: { phrases } } }] },
    'POST /api/rules': { ...first!.value, id: undefined, when: { phrases } },
    'POST /api/phrase-sets': { name: 'Large', owner: 'organisation', phrases },
    'POST /api/lists': { name: 'Large paste', owner: 'organisation', usualSide: 'block', assignment: null, entries: pasted },
    'POST /api/dry-run': { recipient: RECIPIENT, from: 'a@x.test', subject: 's', text },
    'POST /api/copies/lane': { ids: Array.from({ length: 2000 }, (_, n) => n + 1), versions: 'any', lane: 'spam' },
    'POST /api/rules/order': { owner: 'organisation', ids: Array.from({ length: 10_000 }, (_, n) => `r${n}`), version: 1 },
    'POST /api/session (25 MB)': { email: 'a@x.test', password: 'x'.repeat(25_000_000) },
  }
}

async function send(url: string, route: string, body: object): Promise<void> {
  const [method, path] = route.split(' ') as [string, string]
  const directory = await fetch(`${url}/api/directory`, { headers: AUTHORIZED })
  const { policy } = (await directory.json()) as { policy: { version: number } }
  const text = JSON.stringify('base' in body ? { ...body, base: policy.version } : body)
  // A body that is too large may end the connection before all of it was sent.
  const headers = { 'content-type': 'application/json', ...AUTHORIZED }
  const response = await fetch(`${url}${path}`, { method, headers, body: text }).catch(() => null)
  await response?.text().catch(() => '')
}
