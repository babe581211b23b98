import { execFile } from 'node:child_process'
import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { type Caller, signIn } from '../support/http'
import { EMPTY, install, type Installation, SETUP_TOKEN, TOKEN } from '../support/installation'
import { addressOf } from '../support/office'
import { handOver, plainMessage, smtp } from '../support/smtp'

let gate: Installation
let nobody: Caller
beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'empty', { contents: EMPTY })
  nobody = await signIn(gate, null)
})
afterAll(() => gate.stop())

const FORM = {
  token: SETUP_TOKEN,
  name: 'Mira Holt',
  address: 'mira@holt-ropes.example',
  password: 'quite long enough',
  domains: ['holt-ropes.example'],
  people: [] as object[],
}
const setUp = (over: object) => nobody('POST', '/api/setup', { ...FORM, ...over })

describe('set-up: the first administrator would have no real password, or no mail', () => {
  it.each([
    ['eleven letters', 'elevenchars'],
    ['twelve blanks', ' '.repeat(12)],
    ['blanks of other kinds', '\u00A0\u2003\t'.repeat(6)],
    ['eleven letters and blanks', 'eleven chars    '],
    ['nothing', ''],
  ])('refuses a password of %s', async (_, password) => {
    const { status, body } = await setUp({ password })
    expect([status, body.fields.password]).toEqual([422, expect.stringMatching(/12 characters|enter a password/)])
  })
  it.each([
    'localhost',
    'example',
    'com',
    'co.uk',
    '127.0.0.1',
    '[127.0.0.1]',
    'holt ropes.example',
    '-x.example',
    'x_y.example',
    '@',
  ])('refuses %s as a domain', async (domain) => {
    const { status, body } = await setUp({ domains: ['holt-ropes.example', domain] })
    expect([status, body.detail]).toEqual([422, expect.stringContaining('is not a domain')])
    expect(await gate.ask.countPeople()).toBe(0)
  })
  it('refuses another token, whatever its letters, and people without a whole address', async () => {
    for (const token of ['x', SETUP_TOKEN.slice(1), `${SETUP_TOKEN}x`, '\u00FC'.repeat(SETUP_TOKEN.length)])
      expect([token, (await setUp({ token })).status]).toEqual([token, 403])
    expect((await setUp({ people: [{ name: 'N', address: 'nobody', role: 'worker' }] })).status).toBe(422)
    expect((await setUp({ people: [{ name: 'N', address: FORM.address, role: 'worker' }] })).status).toBe(422)
    expect(await gate.ask.countPeople()).toBe(0)
  })
  it('of five at once one is made, and from then on the link is worth nothing', async () => {
    const answers = await Promise.all(Array.from({ length: 5 }, () => setUp({ domains: ['Holt-Ropes.example.'] })))
    expect(answers.map(a => a.status).sort()).toEqual([201, 403, 403, 403, 403])
    expect((await setUp({})).status).toBe(403)
    const admin = await signIn(gate, 'MIRA@holt-ropes.example', FORM.password)
    expect((await admin('GET', '/api/policy')).body.trust.ownDomains).toEqual(['holt-ropes.example'])
    expect(
      (
        await smtp(gate.smtpPort, handOver('a@elsewhere.example', [FORM.address], plainMessage({ subject: 'first' })))
      ).at(-1),
    ).toMatch(/^250/)
    expect((await admin('GET', '/api/copies')).body.items).toHaveLength(1)
  })
})

describe('the command line beside it', () => {
  const folder = mkdtempSync(join(tmpdir(), 'sober-gate-import-'))
  const file = join(folder, 'one.eml')
  writeFileSync(
    file,
    `Received: from x (x [192.0.2.44]) by y; Tue, 24 Nov 2026 09:00:00 `
    + `+0000\n${plainMessage({ subject: 'by file' }).replace(addressOf('worker'), FORM.address)}`,
  )
  const run = (...args: string[]) =>
    new Promise<{ code: number, out: string, err: string }>(resolve =>
      execFile(
        process.execPath,
        ['.output/cli/sober-gate.mjs', 'import', '--url', gate.url, ...args],
        { env: { ...process.env, SOBER_GATE_TOKEN: TOKEN } },
        (error, out, err) => resolve({ code: error ? Number(error.code) : 0, out, err }),
      ),
    )
  const client = async () => (await gate.ask.attempts({ source: 'import' }))[0]!.client
  it('imports, and says of the trace whether it is to be believed', async () => {
    expect(await run(file)).toMatchObject({
      code: 0,
      out: expect.stringContaining('"receivedAt":"2026-11-24T09:00:00.000Z"'),
    })
    expect(await client()).toBe(null)
    expect((await run('--trust-received', file)).code).toBe(0)
    expect(await client()).toBe('192.0.2.44')
    expect(await run('--recipient', 'nobody@elsewhere.example', file)).toMatchObject({
      code: 2,
      err: expect.stringContaining('not an address of a user'),
    })
  })
})
