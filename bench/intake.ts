import { execFileSync } from 'node:child_process'
import { readdirSync, writeFileSync, mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Envelope } from '#core'
import { generate } from '../demo'
import { install, type Installation } from './installation'
import type { Figures } from './measure'
import { SmtpClient } from './smtp-client'

const CLIENTS = 8
const MESSAGES = 4000
const ROUNDS = 3
const SECONDS = 8

/** Messages a second that eight clients get a 250 for, against what pgbench commits of the same rows, a transaction a message. */
export async function intake(figures: Figures): Promise<void> {
  const gate = await install(400)
  try {
    const mail = [...generate(new Date('2026-11-24'), 600)].filter(m => m.envelope.rcptTo.length > 0)
    const signed = await Promise.all(mail.map(async m => ({ ...(await m.sent()) })))
    await template(gate)
    let [ours, theirs, verified] = [0, 0, 0]
    // They take turns, so that a machine that is slow for a while is slow for both.
    for (let round = 0; round < ROUNDS; round++) {
      ours = Math.max(ours, await handOverAll(gate, mail, `${round}`))
      verified = Math.max(verified, await handOverAll(gate, signed, `signed-${round}`))
      theirs = Math.max(theirs, pgbench(gate))
    }
    figures.add('intake committed, 8 SMTP clients', ours, 'messages a second', '', null)
    figures.add('pgbench, the same rows, a transaction a message, 8 clients', theirs, 'transactions a second', '', null)
    figures.add('intake committed, to pgbench', ours / theirs, 'ratio', 'at least 0.25', ours / theirs >= 0.25)
    figures.add('intake of signed mail, verified, to pgbench', verified / theirs, 'ratio', 'at least 0.2', verified / theirs >= 0.2)
  }
  finally {
    await gate.stop()
  }
}

async function handOverAll(
  gate: Installation,
  mail: readonly { bytes: Uint8Array, envelope: Envelope }[],
  round: string,
): Promise<number> {
  let next = 0
  const start = performance.now()
  await Promise.all(
    Array.from({ length: CLIENTS }, async () => {
      const client = await SmtpClient.connect(gate.smtpPort)
      for (let i = next++; i < MESSAGES; i = next++) {
        const one = mail[i % mail.length]!
        // Another message, and no signature is over this field.
        const bytes = Buffer.concat([Buffer.from(`X-Bench: ${round}-${i}\r\n`), one.bytes])
        const reply = await client.handOver(one.envelope.mailFrom ?? '', one.envelope.rcptTo, bytes)
        // What the demo's policy refuses is answered for too.
        if (!/^[25]50/.test(reply)) throw new Error(reply)
      }
      client.close()
    }),
  )
  return MESSAGES / ((performance.now() - start) / 1000)
}

/** Rows as the application wrote them, to be written again by pgbench. */
async function template({ database }: Installation): Promise<void> {
  await database.query(`
    create table t_messages as select row_number() over (order by m.id)::int as n, m.id, m.message_id, m.subject, m.size, m.parser, `
    + `m.facts, m.sender_keys, m.list_id, m.search, m.search_version, s.raw from messages m join sources s on s.message_id = m.id limit 300;
    create index on t_messages (n);
    create table t_copies as select t.n, c.* from copies c join t_messages t on t.id = c.message_id;
    create index on t_copies (n);
    create table t_attempts as select t.n, a.* from attempts a join t_copies t on t.attempt_id = a.id;
    create index on t_attempts (n);
    create table t_decisions as select t.n, r.* from decisions r join t_copies t on t.decision_id = r.id;
    create index on t_decisions (n);
    create table t_claims as select t.n, k.* from decision_claims k join t_decisions t on t.id = k.decision_id;
    create index on t_claims (n);
    analyze`)
}

const SCRIPT = `\\set n random(1, 300)
begin;
insert into messages (content_hash, message_id, subject, size, parser, facts, sender_keys, list_id, search, search_version) select `
  + `gen_random_uuid()::text, message_id, subject, size, parser, facts, sender_keys, list_id, search, search_version from t_messages where n = :n `
  + `returning id as message \\gset
insert into sources (message_id, raw) select :message, raw from t_messages where n = :n;
insert into attempts (transaction, at, client, helo, mail_from, rcpt_to, tls, source, authentication, direction, defects, reply_code, `
  + `reply, message_id) select transaction, at, client, helo, mail_from, rcpt_to, tls, source, authentication, direction, defects, `
  + `reply_code, reply, :message from t_attempts where n = :n limit 1 returning id as attempt \\gset
insert into copies (message_id, attempt_id, recipient, person_id, lane, quarantine_id, folder, lane_since, received_at, tags, important, `
  + `sender_address, sender_domain, sender_name, subject, reason) select :message, :attempt, recipient, person_id, lane, quarantine_id, `
  + `folder, lane_since, received_at, tags, important, sender_address, sender_domain, sender_name, subject, reason from t_copies where `
  + `n = :n limit 1 returning id as copy \\gset
insert into decisions (copy_id, sequence, policy_version, decided_lane, final_lane, quarantine_id, effects, reasons, decided_by, at) `
  + `select :copy, 1, policy_version, decided_lane, final_lane, quarantine_id, effects, reasons, decided_by, at from t_decisions where n = `
  + `:n limit 1 returning id as decision \\gset
insert into decision_claims (decision_id, copy_id, clause_kind, clause_id, list_id, entry_id, outcome) `
  + `select :decision, :copy, clause_kind, clause_id, list_id, entry_id, outcome from t_claims where n = :n;
update copies set decision_id = :decision where id = :copy;
commit;
`

function pgbench({ databaseUrl }: Installation): number {
  const file = join(mkdtempSync(join(tmpdir(), 'pgbench-')), 'script.sql')
  writeFileSync(file, SCRIPT)
  const versions = readdirSync('/usr/lib/postgresql').sort((a, b) => Number(b) - Number(a))
  const out = execFileSync(
    `/usr/lib/postgresql/${versions[0]}/bin/pgbench`,
    ['-n', '-M', 'prepared', '-c', String(CLIENTS), '-j', '2', '-T', String(SECONDS), '-f', file, databaseUrl],
    { encoding: 'utf8', stdio: ['ignore', 'pipe', 'ignore'] },
  )
  const found = /tps = ([\d.]+)/.exec(out)
  if (!found) throw new Error(out)
  return Number(found[1])
}
