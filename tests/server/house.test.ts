// What an office shares and inherits: mailboxes of several people, people who have left, and data of an older version.
import { cpSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { drizzle } from 'drizzle-orm/node-postgres'
import { migrate } from 'drizzle-orm/node-postgres/migrator'
import pg from 'pg'
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { startCluster } from '../../scripts/lib/cluster.mjs'
import {
  callerFor,
  handOver,
  install,
  plainMessage,
  smtp,
  type Caller,
  type Installation,
} from './support/installation'

const OURS = 'saltmere-harbour.example'
const OSKAR = `worker-${OURS}`
const HANNE = `hanne.solberg-${OURS}`
const SHARED = `accounts@${OURS}`
let gate: Installation
let admin: Caller

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'house')
  admin = await callerFor(gate.url, `admin@${OURS}`)
})
afterAll(() => gate.stop())

const query = async (text: string, values: unknown[] = []) =>
  (await gate.database.query(text, values)).rows as Record<string, unknown>[]
const deliver = (subject: string, to: string) =>
  smtp(gate.smtpPort, handOver('a@elsewhere.example', [to], plainMessage({ subject })))
const subjects = async (who: Caller, words: string) =>
  (await who('GET', `/api/copies?words=${words}`)).body.items.map((c: { subject: string }) => c.subject)
const rule = (name: string, owner: string, to: string) => ({
  name,
  owner,
  state: 'acting',
  when: { phrases: ['heronry'] },
  except: [],
  claims: [{ stop: { to } }],
})

describe('a mailbox of several people', () => {
  it('is everybody’s to whom it belongs and nobody else’s; their department’s rules stand over it, nobody’s own', async () => {
    await query('insert into addresses (address, person_id, shown) values ($1, $2, $1)', [SHARED, HANNE])
    await query(`select pg_notify('policy', 'people')`)
    const [oskar, hanne, dov] = [
      await callerFor(gate.url, `worker@${OURS}`),
      await callerFor(gate.url, `hanne.solberg@${OURS}`),
      await callerFor(gate.url, `dov.marchetti@${OURS}`),
    ]
    // Somebody's own rule would take a colleague's mail.
    await oskar('POST', '/api/rules', rule('mine', `person:${OSKAR}`, 'bin'))
    await deliver('heronry first', SHARED)
    expect([
      await subjects(oskar, 'heronry'),
      await subjects(hanne, 'heronry'),
      await subjects(dov, 'heronry'),
    ]).toEqual([['heronry first'], ['heronry first'], []])
    const [copy] = (await hanne('GET', '/api/copies?words=heronry')).body.items
    expect(copy.lane).toBe('inbox')
    expect((await hanne('POST', '/api/copies/lane', { ids: [copy.id], lane: 'spam' })).status).toBe(200)
    expect((await dov('GET', `/api/copies/${copy.id}`)).status).toBe(404)
    // Their own mail to themselves is not opened as somebody else's.
    await hanne('GET', `/api/copies/${copy.id}`)
    expect(await query(`select 1 from acts where kind = 'opened' and person_id = $1`, [HANNE])).toEqual([])
    await admin('POST', '/api/rules', rule('Accounts, all', 'department:accounts', 'spam'))
    await deliver('heronry second', `${SHARED.replace('@', '+tag@')}`)
    const { items } = (await hanne('GET', '/api/copies?words=heronry')).body
    expect(items.find((c: { subject: string }) => c.subject === 'heronry second').lane).toBe('spam')
  })
  it('signs nobody in: it names nobody', async () => {
    const stranger = await callerFor(gate.url, null)
    expect((await stranger('POST', '/api/session', { email: SHARED, password: 'harbour-demo' })).status).toBe(401)
  })
})

describe('whoever has left', () => {
  it('is signed out, and does not come back', async () => {
    const dov = await callerFor(gate.url, `dov.marchetti@${OURS}`)
    expect((await dov('GET', '/api/copies')).status).toBe(200)
    await query('update people set left_at = now(), handed_to = $2 where id = $1', [`dov.marchetti-${OURS}`, HANNE])
    expect((await dov('GET', '/api/copies')).status).toBe(401)
    const again = { email: `dov.marchetti@${OURS}`, password: 'harbour-demo' }
    expect((await (await callerFor(gate.url, null))('POST', '/api/session', again)).status).toBe(401)
  })
})

describe('an installation of an older version', () => {
  it('is brought up to date with everything in it, and goes on', async () => {
    const cluster = await startCluster(inject('clusterFolder'), { quick: true })
    const outside = new pg.Client({ connectionString: cluster.url })
    await outside.connect()
    await outside.query('drop database if exists older with (force)')
    await outside.query('create database older')
    await outside.end()
    const pool = new pg.Pool({ connectionString: cluster.address('older'), max: 2 })
    const db = drizzle(pool, { casing: 'snake_case' })
    await migrate(db, { migrationsFolder: migrationsUpTo(9) })
    await pool.query(OLDER)
    await migrate(db, { migrationsFolder: 'server/db/migrations' })
    const told = async (text: string) => (await pool.query(text)).rows as Record<string, unknown>[]
    expect(await told('select address, person_id from addresses order by 1')).toEqual([
      { address: 'a@x.test', person_id: 'a' },
    ])
    // An address can belong to a second person now, and to none twice.
    await pool.query(`insert into addresses values ('a@x.test', 'b', 'a@x.test')`)
    await expect(pool.query(`insert into addresses values ('a@x.test', 'b', 'a@x.test')`)).rejects.toThrow(
      /unique|duplicate/,
    )
    const [marks] = await told(`select value from settings where key = 'upstream marks'`)
    expect((marks!.value as { id: string }[]).map(m => m.id)).toEqual(['flag', 'status', 'bracket', 'stars'])
    expect(await told('select whole, parser from messages')).toEqual([{ whole: false, parser: 3 }])
    expect(await told('select mailbox, person_id, decided, erased from copies order by id')).toEqual([
      { mailbox: null, person_id: 'a', decided: 'rule R', erased: false },
      { mailbox: null, person_id: 'a', decided: 'rule E', erased: true },
      { mailbox: null, person_id: 'a', decided: 'rule D', erased: false },
    ])
    expect(await told('select first_hop, signed_in, client from attempts')).toEqual([
      { first_hop: null, signed_in: null, client: '192.0.2.1' },
    ])
    await pool.end()
  })
  it('where nobody asked for marks of upstream systems, none are believed but those that were named', async () => {
    const kept = await query(`select value from settings where key = 'upstream marks'`)
    expect(kept.map(k => (k.value as { id: string }[]).map(m => m.id))).toEqual([['provider']])
  })
})

/** The migrations as they were: the first so many. */
function migrationsUpTo(count: number): string {
  const folder = mkdtempSync(join(tmpdir(), 'sober-gate-migrations-'))
  cpSync('server/db/migrations', folder, { recursive: true })
  const journal = join(folder, 'meta/_journal.json')
  const { entries, ...rest } = JSON.parse(readFileSync(journal, 'utf8')) as { entries: unknown[] }
  writeFileSync(journal, JSON.stringify({ ...rest, entries: entries.slice(0, count) }))
  return folder
}

const OLDER = `
  insert into people (id, name, role) values ('a', 'A', 'administrator'), ('b', 'B', 'worker');
  insert into addresses (address, person_id, shown) values ('a@x.test', 'a', 'A@x.test');
  insert into versions (number, owner, note) values (1, 'organisation', 'first');
  insert into rules (id, from_version, name, owner, must, state, direction, "when", "except", claims, rank)
    values ('r', 1, 'R', 'organisation', false, 'acting', 'inbound', '{"markedUpstream": true}', '[]', '[{"stop": {"to": "spam"}}]', 0);
  insert into messages (content_hash, subject, size, parser, facts, sender_keys, search_text) values ('h', 's', 1, 3, '{}', '{}', 's');
  insert into attempts (transaction, at, client, rcpt_to, tls, source, reply_code, reply, message_id)
    select gen_random_uuid(), now(), '192.0.2.1', 'a@x.test', false, 'smtp', 250, 'ok', id from messages;
  insert into copies (message_id, attempt_id, recipient, person_id, lane, lane_since, received_at, sender_address, sender_domain, `
  + `sender_name, subject, decided)
    select m.id, t.id, 'a@x.test', 'a', 'spam', now(), now(), 'b@y.test', 'y.test', '', 's', 'rule R' from messages m, attempts t;
  insert into copies (message_id, attempt_id, recipient, person_id, lane, lane_since, received_at, sender_address, sender_domain, `
  + `sender_name, subject, decided)
    select m.id, t.id, gone || '@x.test', 'a', 'dropped', now(), now(), 'b@y.test', 'y.test', '', '', 'rule ' || gone from messages m, `
  + `attempts t, unnest(array['E', 'D']) gone;
  insert into rulings (copy_id, sequence, policy_version, decided_lane, final_lane, effects, reasons, decided_by, at)
    select id, 1, 1, 'dropped', 'dropped', '[]', jsonb_build_array(jsonb_build_object('claim', jsonb_build_object('stop', `
  + `jsonb_build_object('to', case decided when 'rule E' then 'erase' else 'drop' end)))), 0, now()
    from copies where lane = 'dropped';
  update copies set ruling_id = (select r.id from rulings r where r.copy_id = copies.id);`
