// A client that leaves while its request waits: its user would be locked out until a restart, by typing quickly in a form.
import { request as httpRequest, type ClientRequest } from 'node:http'
import { setTimeout as sleep } from 'node:timers/promises'
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { ACCESS } from '../../server/access/routes'
import { putRule, tried } from '../support/clauses'
import { type Caller, JSON_TYPE, signIn } from '../support/http'
import { install, type Installation } from '../support/installation'
import { eachOf } from '../support/parallel'
import { until } from '../support/wait'

let gate: Installation
let admin: Caller
let worker: Caller
let copy: number

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'callers_leaving')
  admin = await signIn(gate, 'admin')
  worker = await signIn(gate, 'worker')
  copy = (await worker('GET', '/api/copies?limit=1')).body.items[0].id
})
afterAll(() => gate.stop())

/** Slots of one person for all their requests. */
const SLOTS = 4

interface Asked {
  method: string
  path: string
  body?: string
}

/** Begins a request. @param sent how much of its body is sent: all unless said */
function begin(caller: Caller, { method, path, body = '' }: Asked, sent = 1): ClientRequest {
  const { hostname, port } = new URL(gate.url)
  const typed = method === 'GET' ? {} : { ...JSON_TYPE, 'content-length': Buffer.byteLength(body) }
  const request = httpRequest({ hostname, port, path, method, agent: false, headers: { cookie: caller.cookie, ...typed } })
  request.on('error', () => undefined).on('response', r => r.resume().on('error', () => undefined))
  if (method === 'GET' || sent === 1) request.end(method === 'GET' ? undefined : body)
  else {
    request.flushHeaders()
    request.write(body.slice(0, Math.ceil(body.length * sent)))
  }
  return request
}

/** Each of them gets answers, as many at once as they have slots and more. */
async function everybodyIsServed() {
  for (const caller of [worker, admin])
    expect((await Promise.all(Array.from({ length: 2 * SLOTS }, () => caller('GET', '/api/directory')))).map(r => r.status)).toEqual(
      Array(2 * SLOTS).fill(200),
    )
  // The slots for what threads do as well.
  expect((await worker('POST', '/api/impact', IMPACT)).status).toBe(200)
  expect((await worker('POST', '/api/dry-run', tried())).status).toBe(200)
  expect((await worker('GET', `/api/copies/${copy}`)).status).toBe(200)
}

const OWNER = 'person:worker-saltmere-harbour.example'
const IMPACT = { changes: [putRule('typing', { owner: OWNER, when: { phrases: ['the'] } })] }
/** By requests of which the second half of the body does not come. */
const holdAllSlots = () =>
  Array.from({ length: SLOTS }, () => begin(worker, { method: 'POST', path: '/api/impact', body: JSON.stringify(IMPACT) }, 0.5))
const KINDS = (): Asked[] => [
  { method: 'GET', path: '/api/copies?limit=200' },
  { method: 'GET', path: `/api/copies/${copy}` },
  { method: 'POST', path: '/api/impact', body: JSON.stringify(IMPACT) },
  { method: 'POST', path: '/api/impact?follow', body: JSON.stringify(IMPACT) },
  { method: 'POST', path: '/api/dry-run', body: JSON.stringify(tried()) },
]

describe('who leaves', () => {
  it('gives back what they held: five hundred cancelled requests, each left at another moment', async () => {
    const kinds = KINDS()
    await eachOf(Array.from({ length: 500 }, (_, n) => n), 25, async (n) => {
      const request = begin(worker, kinds[n % kinds.length]!)
      await sleep(n % 40)
      request.destroy()
    })
    await everybodyIsServed()
  })

  const routes = Object.keys(ACCESS).filter(r => r !== 'DELETE /api/session')
  it.each(routes)('%s: before its body, in the middle of it, waiting, at work', async (route) => {
    const [method, pattern] = route.split(' ') as [string, string]
    const asked = { method, path: pattern.replace(':id', '1'), body: JSON.stringify({ dry: true, text: 'x'.repeat(2000) }) }
    for (const sent of [0, 0.5, 1]) {
      const request = begin(worker, asked, sent)
      await sleep(2)
      request.destroy()
    }
    // All slots are held; the others wait.
    const holding = holdAllSlots()
    await sleep(15)
    const waiting = [0, 0.5, 1].map(sent => begin(worker, asked, sent))
    await sleep(10)
    for (const request of [...waiting, ...holding]) request.destroy()
    expect((await worker('GET', '/api/directory')).status).toBe(200)
  })

  it('and after all of that everybody is served', () => everybodyIsServed())

  it('who sends too much at once is told, and served again when some of it is done', async () => {
    const holding = holdAllSlots()
    await until('all slots are held', async () => {
      const probe = begin(worker, { method: 'GET', path: '/api/directory' })
      const answered = await Promise.race([new Promise(answer => probe.once('response', answer)).then(() => true), sleep(300, false)])
      probe.destroy()
      return !answered
    })
    let refused = 0
    const many = Array.from({ length: 110 }, () => worker('GET', '/api/directory').then((r) => {
      if (r.status === 429) refused++
      return r
    }))
    await until('what is too much has been refused', () => refused === 10)
    for (const request of holding) request.destroy()
    const statuses = (await Promise.all(many)).map(r => r.status)
    expect(statuses.filter(s => s === 429)).toHaveLength(10)
    expect(statuses.filter(s => s === 200)).toHaveLength(100)
    expect((await admin('GET', '/api/directory')).status).toBe(200)
    await everybodyIsServed()
  })
})
