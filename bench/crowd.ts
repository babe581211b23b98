import { createConnection, type Socket } from 'node:net'
import { generate } from '../demo'
import { HOSTILE } from '../tests/support/hostile-shapes'
import { watchHealth } from './health-watch'
import { AUTHORIZED, install, RECIPIENT } from './installation'
import type { Figures } from './measure'
import { SmtpClient } from './smtp-client'

const MESSAGES = 3000
const CLIENTS = 20
const DRIPPING = 40
const PASTES = 16
const LINES = 50_000
const COSTLY = 25 * 1000 * 1000

/** Ordinary mail while others try to keep everybody waiting: costly messages, connections that drip, and large pastes. */
export async function crowd(figures: Figures): Promise<void> {
  const gate = await install(300)
  const shapes = Object.entries(HOSTILE).slice(0, 3)
  const began = performance.now()

  const dripping = drip(gate.smtpPort)
  const costly = shapes.map(async ([, make], i) => {
    const client = await SmtpClient.connect(gate.smtpPort, `127.0.3.${i + 1}`)
    const reply = await client.handOver('a@costly.test', [RECIPIENT], Buffer.from(make(COSTLY), 'latin1'))
    client.close()
    return reply
  })
  const pastes = Array.from({ length: PASTES }, (_, i) => paste(gate.url, i))
  const health = await watchHealth(gate.url)

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
  const healths = await health.stop()
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
    headers: { 'content-type': 'application/json', ...AUTHORIZED },
    body: JSON.stringify({
      name: `Paste ${number}`,
      owner: 'organisation',
      usualSide: 'block',
      assignment: { side: 'block', state: 'enabled', stop: { to: 'spam' } },
      entries,
    }),
  })
  await response.text()
  return response.status
}
