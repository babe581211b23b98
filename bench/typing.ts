import { setTimeout as sleep } from 'node:timers/promises'
import { readFileSync } from 'node:fs'
import { generate } from '../demo'
import { addressOf, PEOPLE, type DemoPerson } from '../demo/world'
import { watchHealth } from './health-watch'
import { install, RECIPIENT } from './installation'
import type { Figures } from './measure'
import { SmtpClient } from './smtp-client'

const CLIENTS = 20
/** Seconds; the memory of the first two minutes is held against that of the end. */
const LASTS = Number(process.env.SOBER_GATE_BENCH_SECONDS ?? 600)
const EARLY = Math.min(120, LASTS / 5)
/** Milliseconds between keys, between pages, and between messages. */
const KEY = 150
const PAGE = 300
const MESSAGE = 100
const PASSWORD = 'harbour-demo'

/**
 * Twenty people who type in rule sheets, cancel, watch streams and look through their mail for ten minutes, while mail comes in: how long
 * mail and health waited, and what the server keeps in memory.
 */
export async function typing(figures: Figures): Promise<void> {
  const gate = await install(1200)
  const memory = watchMemory(gate.pid)
  const health = await watchHealth(gate.url)
  const over = new AbortController()
  const clients = Array.from({ length: CLIENTS }, (_, i) => workAs(gate.url, PEOPLE[i % PEOPLE.length]!, i, over.signal))
  const mail = handOver(gate.smtpPort, over.signal)
  await sleep(LASTS * 1000)
  over.abort()
  const waits = await mail
  const did = await Promise.all(clients)
  const { times, bad, paused, pausedAt } = await health.stop()
  const used = memory.stop()
  if (process.env.SOBER_GATE_BENCH_TRACE) {
    process.stdout.write(`  the machine paused for ${paused.toFixed(0)} ms at ${(pausedAt / 1000).toFixed(1)} s\n`)
    let at = 0
    for (const t of times) {
      if (t > 400) process.stdout.write(`  health at ${(at / 1000).toFixed(1)} s: ${t.toFixed(0)} ms\n`)
      at += t + 100
    }
    at = 0
    for (const t of waits) {
      if (t > 1500) process.stdout.write(`  mail at ${(at / 1000).toFixed(1)} s: ${t.toFixed(0)} ms\n`)
      at += t + MESSAGE
    }
  }
  const seconds = (ms: readonly number[]) => Math.max(...ms) / 1000
  figures.add(
    `${CLIENTS} people who type, cancel and watch for ${LASTS / 60} minutes: rule sheets typed in`,
    did.reduce((n, d) => n + d.sheets, 0),
    '',
    '',
    null,
  )
  const faults = did.flatMap(d => d.faults)
  if (faults.length) process.stdout.write(`  ${faults.slice(0, 5).join('\n  ')}\n`)
  figures.add('requests that failed', faults.length, '', '0', faults.length === 0)
  figures.add('the longest that a message waited', seconds(waits), 's', 'under 5', seconds(waits) < 5)
  figures.add('the longest that health took', seconds(times), 's', 'under 1', seconds(times) < 1)
  figures.add('the longest that the machine kept the watching thread from running', paused / 1000, 's', '', null)
  figures.add('times that health did not say ok', bad, '', '0', bad === 0)
  const early = median(used.filter(u => Math.abs(u.at - EARLY) < EARLY / 8).map(u => u.mb))
  const last = median(used.filter(u => u.at > LASTS - EARLY / 4).map(u => u.mb))
  figures.add('memory of the server after two minutes', early, 'MB', '', null)
  figures.add('memory of the server at the end', last, 'MB', `at most ${early.toFixed(0)}`, last <= early)
  figures.add('the most in between', Math.max(...used.map(u => u.mb)), 'MB', '', null)
  await gate.stop()
}

function median(values: readonly number[]): number {
  return [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)]!
}

/** The memory that a process holds (VmRSS of proc(5)), every five seconds. */
function watchMemory(pid: number): { stop(): { at: number, mb: number }[] } {
  const began = Date.now()
  const used: { at: number, mb: number }[] = []
  const look = () => {
    const rss = /VmRSS:\s*(\d+) kB/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))
    used.push({ at: (Date.now() - began) / 1000, mb: Number(rss![1]) / 1024 })
    if (process.env.SOBER_GATE_BENCH_TRACE) process.stdout.write(`  ${used.at(-1)!.at.toFixed(0)} s: ${used.at(-1)!.mb.toFixed(0)} MB\n`)
  }
  const clock = setInterval(look, 5000)
  return {
    stop() {
      look()
      clearInterval(clock)
      return used
    },
  }
}

async function handOver(port: number, signal: AbortSignal): Promise<number[]> {
  const client = await SmtpClient.connect(port, '127.0.2.1')
  const mail = [...generate(new Date('2026-11-24'), 400)]
  const waits: number[] = []
  for (let n = 0; !signal.aborted; n++) {
    const bytes = Buffer.concat([Buffer.from(`X-Number: ${n}\r\n`), mail[n % mail.length]!.bytes])
    const start = performance.now()
    const reply = await client.handOver('a@ordinary.test', [RECIPIENT], bytes)
    waits.push(performance.now() - start)
    if (!reply.startsWith('250')) throw new Error(`the message was not taken: ${reply}`)
    await sleep(MESSAGE)
  }
  client.close()
  return waits
}

const WORDS = ['release fee', 'harbour dues', 'overdue invoice', 'your parcel', 'mooring lines', 'new bank account', 'tide tables']

/** One person's work, again and again. */
async function workAs(url: string, person: DemoPerson, number: number, over: AbortSignal): Promise<{ sheets: number, faults: string[] }> {
  const faults: string[] = []
  const cookie = await cookieOf(url, addressOf(person))
  const call: Call = async (method, path, { body, signal, accept } = {}) => {
    const headers = { cookie, ...(body ? { 'content-type': 'application/json' } : {}), ...(accept ? { accept } : {}) }
    const answer = await fetch(`${url}/api${path}`, { method, headers, body: body && JSON.stringify(body), signal })
    const text = await answer.text()
    if (!answer.ok && answer.status !== 429) faults.push(`${method} ${path}: ${answer.status} ${text.slice(0, 200)}`)
    return text
  }
  const { person: me } = JSON.parse(await call('GET', '/session')) as { person: { id: string } }
  let sheets = 0
  for (; !over.aborted; sheets++) {
    await typeSheet(call, `person:${me.id}`, WORDS[(sheets + number) % WORDS.length]!, over)
    await lookAround(call, addressOf(person), sheets, over)
    if (sheets % 4 === 0 && !over.aborted) await watchJob(call)
  }
  return { sheets, faults }
}

type Call = (method: string, path: string, how?: { body?: object, signal?: AbortSignal, accept?: string }) => Promise<string>

/** Types some words, letter by letter; what was asked before the next letter is cancelled, and the last is read to its end. */
async function typeSheet(call: Call, owner: string, words: string, over: AbortSignal): Promise<void> {
  for (let n = 2; n <= words.length && !over.aborted; n++) {
    const rule = {
      id: 'typed',
      name: 'Typed',
      owner,
      state: 'enabled',
      when: { phrases: [words.slice(0, n)] },
      except: [],
      claims: [{ stop: { to: 'spam' } }],
    }
    const body = { changes: [{ type: 'put', kind: 'rule', value: rule }] }
    if (n === words.length) await call('POST', '/impact?follow', { body })
    else await call('POST', '/impact?follow', { body, signal: AbortSignal.timeout(KEY) }).catch(() => undefined) // the next key was pressed
  }
}

/** Opens some pages and messages, and what is computed of them. */
async function lookAround(call: Call, own: string, round: number, over: AbortSignal): Promise<void> {
  const { items } = JSON.parse(await call('GET', '/copies?limit=50')) as { items: { id: number }[] }
  const ids = [0, 1, 2].map(n => items[(round * 3 + n) % items.length]!.id)
  const pages: [string, string, object?][] = [
    ['GET', '/rules'],
    ['GET', '/lists'],
    ['GET', '/review?by=sender'],
    ['GET', '/copies/count'],
    ...ids.map((id): [string, string] => ['GET', `/copies/${id}`]),
    ['POST', '/suggestions', { ids: ids.slice(0, 1) }],
    ['POST', '/fixes', { ids: ids.slice(1, 2) }],
    ['POST', '/dry-run', { recipient: own, from: 'a@x.test', subject: 'a release fee', text: 'your parcel waits '.repeat(50) }],
  ]
  for (const [method, path, body] of pages) {
    if (over.aborted) return
    await call(method, path, { body })
    await sleep(PAGE)
  }
}

/** Marks mail, watches the job for a second, cancels, and undoes it. */
async function watchJob(call: Call): Promise<void> {
  const begun = JSON.parse(await call('POST', '/copies/judgement', { body: { query: { lane: ['inbox'] }, value: 'wanted' } })) as
    { eventId?: number, job?: number }
  if (!begun.job) return
  const follow = { accept: 'text/event-stream', signal: AbortSignal.timeout(1000) }
  await call('GET', `/jobs/${begun.job}`, follow).catch(() => undefined) // cancelled
  await call('DELETE', `/jobs/${begun.job}`)
  await call('POST', `/audit-events/${begun.eventId}/undo`)
}

async function cookieOf(url: string, email: string): Promise<string> {
  const answer = await fetch(`${url}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ email, password: PASSWORD }),
  })
  if (!answer.ok) throw new Error(`signing in as ${email}: ${answer.status}`)
  return answer.headers.getSetCookie().map(c => c.split(';')[0]).join('; ')
}
