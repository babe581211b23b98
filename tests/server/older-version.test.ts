// Data of an older version is brought up to date. What stands in SQL here is the schema as it was then, and stays as it is.
import { cpSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { drizzle } from 'drizzle-orm/node-postgres'
import { migrate } from 'drizzle-orm/node-postgres/migrator'
import pg from 'pg'
import { describe, expect, inject, it } from 'vitest'
import { startCluster } from '../../scripts/lib/cluster.mjs'

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
    const result = async (text: string) => (await pool.query(text)).rows as Record<string, unknown>[]
    expect(await result('select address, person_id from addresses order by 1')).toEqual([
      { address: 'a@x.test', person_id: 'a' },
    ])
    // An address can belong to a second person now, and to none twice.
    await pool.query(`insert into addresses values ('a@x.test', 'b', 'a@x.test')`)
    await expect(pool.query(`insert into addresses values ('a@x.test', 'b', 'a@x.test')`)).rejects.toThrow(
      /unique|duplicate/,
    )
    const [upstreamVerdicts] = await result(`select value from settings where key = 'upstreamVerdicts'`)
    expect((upstreamVerdicts!.value as { id: string }[]).map(m => m.id)).toEqual(['flag', 'status', 'bracket', 'stars'])
    expect(await result('select whole, parser from messages')).toEqual([{ whole: false, parser: 3 }])
    expect(await result('select mailbox, person_id, lane, erased from copies order by id')).toEqual([
      { mailbox: null, person_id: 'a', lane: 'spam', erased: false },
      { mailbox: null, person_id: 'a', lane: 'discarded', erased: true },
      { mailbox: null, person_id: 'a', lane: 'discarded', erased: false },
    ])
    expect(await result('select first_hop, signed_in, client from attempts')).toEqual([
      { first_hop: null, signed_in: null, client: '192.0.2.1' },
    ])
    await pool.end()
  })
})

describe('an installation in which personal lists counted unless authentication failed', () => {
  it('decides as before, says so of each, and knows of every message whether its sender was verified', async () => {
    const cluster = await startCluster(inject('clusterFolder'), { quick: true })
    const outside = new pg.Client({ connectionString: cluster.url })
    await outside.connect()
    await outside.query('drop database if exists counting with (force)')
    await outside.query('create database counting')
    await outside.end()
    const pool = new pg.Pool({ connectionString: cluster.address('counting'), max: 2 })
    const db = drizzle(pool, { casing: 'snake_case' })
    await migrate(db, { migrationsFolder: migrationsUpTo(18) })
    await pool.query(COUNTING)
    await migrate(db, { migrationsFolder: 'server/db/migrations' })
    const result = async (text: string) => (await pool.query(text)).rows as Record<string, unknown>[]
    expect(await result('select id, counts from assignments order by id')).toEqual([
      { id: 'mandatory', counts: null },
      { id: 'ours', counts: null },
      { id: 'own', counts: 'notFailed' },
      { id: 'own any', counts: 'any' },
      { id: 'own block', counts: null },
    ])
    const sender = { kind: 'address', value: 'a@b.test' }
    const lax = { sender, counts: 'notFailed' }
    expect(await result('select id, "when", "except" from rules order by id')).toEqual([
      { id: 'keeps', when: { all: [lax, { none: [{ sender }] }] }, except: [{ sender }] },
      { id: 'must', when: { sender }, except: [{ any: [{ sender }, { sender }] }] },
      { id: 'ours', when: { sender }, except: [{ sender }] },
      { id: 'stops', when: { all: [{ sender }, { none: [{ any: [lax] }] }] }, except: [lax, { senderOn: 'l', counts: 'verified' }] },
    ])
    expect(await result('select subject, verdict, review_sender, ranked_at from copies order by id')).toEqual([
      { subject: 'pass', verdict: 'pass', review_sender: 'verified b@y.test', ranked_at: null },
      { subject: 'fail', verdict: 'fail', review_sender: 'notVerified b@y.test', ranked_at: null },
      { subject: 'none', verdict: 'none', review_sender: 'notVerified b@y.test', ranked_at: null },
      { subject: 'unknown', verdict: 'none', review_sender: '', ranked_at: null },
    ])
    expect(await result('select quarantine_id, notified from quarantine_settings order by 1')).toEqual([
      { quarantine_id: 'hidden', notified: false },
      { quarantine_id: 'shown', notified: true },
    ])
    await pool.end()
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

const SENDER = '{"sender": {"kind": "address", "value": "a@b.test"}}'
const COUNTING = `
  insert into versions (number, owner, words, words_version) values (1, 'organisation', '', 2);
  insert into assignments (id, from_version, list_id, owner, side, mandatory, state, direction, counts) values
    ('own', 1, 'l', 'person:a', 'allow', false, 'enabled', 'inbound', null),
    ('own any', 1, 'l', 'person:a', 'allow', false, 'enabled', 'inbound', 'any'),
    ('own block', 1, 'l', 'person:a', 'block', false, 'enabled', 'inbound', null),
    ('ours', 1, 'l', 'organisation', 'allow', false, 'enabled', 'inbound', null),
    ('mandatory', 1, 'l', 'organisation', 'allow', true, 'enabled', 'inbound', 'notFailed');
  insert into rules (id, from_version, name, owner, mandatory, state, direction, "when", "except", claims, rank) values
    ('stops', 1, 's', 'person:a', false, 'enabled', 'inbound', '{"all": [${SENDER}, {"none": [{"any": [${SENDER}]}]}]}',
      '[${SENDER}, {"senderOn": "l", "counts": "verified"}]', '[{"stop": {"to": "spam"}}]', 0),
    ('keeps', 1, 'k', 'person:a', false, 'enabled', 'inbound', '{"all": [${SENDER}, {"none": [${SENDER}]}]}', '[${SENDER}]',
      '[{"protect": ["spam"]}]', 1),
    ('ours', 1, 'o', 'organisation', false, 'enabled', 'inbound', '${SENDER}', '[${SENDER}]', '[{"stop": {"to": "spam"}}]', 2),
    ('must', 1, 'm', 'organisation', true, 'enabled', 'inbound', '${SENDER}',
      '[{"any": [{"counts": "any", "sender": {"kind": "address", "value": "a@b.test"}}, ${SENDER}]}]', '[{"stop": {"to": "spam"}}]', 3);
  insert into messages (content_hash, subject, size, parser, facts, sender_keys, search_text)
    select of, of, 1, 3, '{}', '{}', of from unnest(array['pass', 'fail', 'none', 'unknown']) of;
  insert into attempts (transaction, at, rcpt_to, tls, source, reply_code, reply, authentication, message_id)
    select gen_random_uuid(), now(), 'a@x.test', false, 'smtp', 250, 'ok',
      case subject when 'unknown' then null else jsonb_build_object('verdict', subject) end, id from messages order by id;
  insert into copies (message_id, attempt_id, recipient, lane, lane_since, received_at, sender_address, sender_domain, sender_name,
      subject, reason, ranked_at)
    select m.id, t.id, 'a@x.test', 'spam', now(), now(), case m.subject when 'unknown' then '' else 'b@y.test' end, 'y.test', '', m.subject,
      '{"kind": "none", "matched": false}', now() from messages m join attempts t on t.message_id = m.id order by m.id;
  insert into quarantine_settings (quarantine_id, visible) values ('shown', true), ('hidden', false);`
