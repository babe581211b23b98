import { createTransport } from 'nodemailer'
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { install, type Installation } from '../support/installation'
import { addressOf } from '../support/office'
import { plainMessage } from '../support/smtp'

const MESSAGES = 600
const CONNECTIONS = 20
let gate: Installation

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'killed')
})
afterAll(() => gate.stop())

describe('killed in the middle: a message that the sender believes delivered would be gone, or be there twice', () => {
  it(`takes ${MESSAGES} messages by ${CONNECTIONS} connections with SIGKILL in between`, async () => {
    const waiting = Array.from({ length: MESSAGES }, (_, i) => i)
    let accepted = 0
    let killed: Promise<void> | null = null
    const send = async () => {
      const connect = () =>
        createTransport({
          host: '127.0.0.1',
          port: gate.smtpPort,
          ignoreTLS: true,
          pool: true,
          maxConnections: 1,
          connectionTimeout: 3000,
        })
      let transport = connect()
      for (let next = waiting.shift(); next !== undefined; next = waiting.shift()) {
        try {
          await transport.sendMail({
            envelope: { from: 'x@elsewhere.example', to: [addressOf('worker')] },
            raw: plainMessage({ id: `kill-${next}`, subject: `kill ${next}` }),
          })
          if (++accepted === MESSAGES / 2) killed = gate.kill().then(() => gate.restart())
        }
        catch {
          // As a mail server does: whatever was not answered with 250 is sent again.
          waiting.push(next)
          transport.close()
          await killed
          await new Promise(r => setTimeout(r, 100))
          transport = connect()
        }
      }
      transport.close()
    }
    await Promise.all(Array.from({ length: CONNECTIONS }, send))
    expect(killed).not.toBeNull()
    const sent = { about: 'kill ' }
    const subjects = new Set((await gate.ask.copies(sent)).map(c => c.subject))
    expect([await gate.ask.countCopies(sent), subjects.size, await gate.ask.countDecisions(sent)]).toEqual(Array(3).fill(MESSAGES))
  })
})
