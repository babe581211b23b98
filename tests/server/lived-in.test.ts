// An installation of an older version, with everything in it that people leave behind: nothing of it may be lost or read differently
// after the update. The dump was made by that version itself (demo of 260 messages, then some hundred calls of its API and its SMTP);
// beside it lie its policy as it exported it, and how it decided every stored message under that policy.
import { gunzipSync } from 'node:zlib'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { decide, IndexedPolicy, parseMessage, readPolicy, type Policy } from '#core'
import { readChanges, type PolicyChange } from '#core/change'
import { storedEnvelope } from '../../server/intake/stored-envelope'
import { until } from '../support/wait'
import { install, type Installation } from '../support/installation'
import { signIn, undo, type Caller } from '../support/http'
import { OURS } from '../support/office'

const DATA = join(import.meta.dirname, 'data')
const recorded = JSON.parse(gunzipSync(readFileSync(join(DATA, 'lived-in.json.gz'))).toString()) as {
  policy: unknown
  expected: Record<string, { lane: string, quarantine: string | null, reasons: [kind: string, id: string, fate: string][] }>
}

/** What the older version called otherwise. Written by hand, and nothing that the migration reads. */
const LANES: Record<string, string> = { 'slow lane': 'lowPriority', 'dropped': 'discarded' }
const OUTCOMES: Record<string, string> = {
  'agreed': 'sameResult',
  'held off': 'overriddenBy',
  'outranked': 'comesAfter',
  'protection too late': 'allowTooLate',
  'waits': 'waiting',
  'not applied': 'notApplied',
  'not counted': 'notCounted',
  'not reached': 'notReached',
  'watching': 'monitored',
}
const OLD_KEYS = [
  'must', 'raised', 'fate', 'markedUpstream', 'rulingId', 'decided_owner', 'decidedOwner', 'deed', 'mayAsk', 'mayRelease', 'keeping',
]
const OLD_VALUES = [
  'slow lane', 'dropped', 'drop', 'acting', 'watching', 'not fail', 'undisguised', 'domain and below', 'mailing list',
  'subject mark', 'agreed', 'outranked', 'held off', 'yielded', 'protection too late', 'waits', 'not applied', 'not reached',
  'not counted', 'not verified', 'hidden text', 'unjudged', 'reject',
]

/** Kinds of events that no version undoes. */
const NOT_UNDOABLE = ['undone', 'purged', 'opened', 'setUp', 'invitedUser', 'changedUsers', 'chosePassword']

let gate: Installation
let admin: Caller
let worker: Caller
let reviewer: Caller

beforeAll(async () => {
  // No jobs yet: what waits is looked at first.
  gate = await install(inject('clusterFolder'), 'lived_in', {
    contents: { dump: join(DATA, 'lived-in.sql.gz') },
    env: { SOBER_GATE_ROLES: 'web,intake' },
  })
  admin = await signIn(gate, 'admin')
  worker = await signIn(gate, 'worker')
  reviewer = await signIn(gate, 'reviewer')
})
afterAll(() => gate.stop())

const copiesOf = (job: string, event: string) => rows<{ lane: string, judgement: string | null }>(`
  select c.lane, c.judgement from jobs j join audit_events e on e.id = j.event_id join audit_event_items i on i.event_id = e.id
  join copies c on c.id = i.copy_id where j.kind = '${job}' and e.kind = '${event}'`)
const rows = async <T = Record<string, unknown>>(text: string) => (await gate.database.query(text)).rows as T[]

describe('an installation of an older version, after the update', () => {
  it('lets everybody sign in with the password that they had', async () => {
    for (const who of [admin, worker, reviewer]) expect((await who('GET', '/api/session')).body.person.name).toBeTruthy()
  })

  it('has no key and no value of the old format left in any JSON', async () => {
    const columns = await rows<{ table_name: string, column_name: string }>(
      `select table_name, column_name from information_schema.columns where table_schema = 'public' and data_type = 'jsonb'`,
    )
    expect(columns.length).toBeGreaterThan(20)
    const old = [...OLD_KEYS.map(k => `"${k}": `), ...OLD_VALUES.map(v => `: "${v}"`)]
    const patterns = old.map(o => `'%${o}%'`).join(', ')
    for (const { table_name: table, column_name: column } of columns) {
      const found = await rows(`select "${column}" from ${table} where "${column}"::text like any (array[${patterns}]) limit 1`)
      expect([table, column, found]).toEqual([table, column, []])
    }
    const lanes = await rows<{ lane: string }>('select distinct lane from copies order by 1')
    expect(lanes.map(l => l.lane)).toEqual(['bin', 'discarded', 'inbox', 'lowPriority', 'quarantine', 'refused', 'spam'])
  })

  it('refuses a lane or a state that it does not know', async () => {
    const oldLane = gate.database.query(`update copies set lane = 'slow lane' where id = (select min(id) from copies)`)
    await expect(oldLane).rejects.toThrow(/copies_lane/)
    await expect(gate.database.query(`update rules set state = 'acting'`)).rejects.toThrow(/rules_state/)
  })

  it('has the policy that the older version exported, which is still read', async () => {
    const read = readPolicy(recorded.policy) as { policy: Policy }
    expect(read).toHaveProperty('policy')
    const { body } = await admin('GET', '/api/policy')
    expect(body.formatVersion).toBe(3)
    // Since then senders are verified here, unless that is turned off.
    const { trust, ...rest } = JSON.parse(JSON.stringify(read.policy)) as Policy
    expect(body).toEqual({ ...rest, trust: { ...trust, ownVerification: true } })
  })

  it('decides every stored message as the older version did', async () => {
    const { body: policy } = await admin('GET', '/api/policy')
    const indexed = IndexedPolicy.build((readPolicy(policy) as { policy: Policy }).policy)
    const stored = await rows<Record<string, never>>(
      `select c.id::int as copy, c.recipient, s.raw, a.* from copies c
       join sources s on s.message_id = c.message_id join attempts a on a.id = c.attempt_id`,
    )
    expect(stored.length).toBe(Object.keys(recorded.expected).length)
    const wrong: unknown[] = []
    for (const r of stored) {
      const row = { ...r, mailFrom: r.mail_from, firstHop: r.first_hop, signedIn: r.signed_in }
      const { envelope, attempt } = storedEnvelope(row as never, r.recipient!)
      const message = await parseMessage(r.raw!, envelope, policy.trust)
      Object.assign(message.attempt, attempt)
      const got = decide(message, r.recipient!, indexed, { now: envelope.receivedAt })
      const was = recorded.expected[r.copy!]!
      const now = [got.lane, got.quarantine, got.reasons.map(x => [x.clause.kind, x.clause.id, x.outcome.kind])]
      const reasons = was.reasons.map(([kind, id, fate]) => [kind, id, OUTCOMES[fate] ?? fate])
      const before = [LANES[was.lane] ?? was.lane, was.quarantine, reasons]
      if (JSON.stringify(now) !== JSON.stringify(before)) wrong.push([r.copy, now, before])
    }
    expect(wrong).toEqual([])
  })

  it('shows every message with its reason in words of today, and the filed ones as filed', async () => {
    const { body } = await admin('GET', '/api/copies?limit=200')
    const reasons = (body.items as { reason: string }[]).map(i => i.reason)
    expect(reasons.filter(r => r === '' || /slow lane|dropped|held off|watching|not refused/.test(r))).toEqual([])
    expect(reasons).toContain('rule “Fee demands”: “release fee”')
    const filed = (await admin('GET', '/api/copies?filed=true&limit=10')).body.items
    expect(filed).toMatchObject([{ filed: true, folder: null, lane: 'inbox' }])
  })

  it('describes versions, proposals and events anew', async () => {
    const before = await rows<{ n: number }>('select count(*)::int n from versions where words_version = 0')
    expect(before[0]!.n).toBeGreaterThan(20)
    const worked = await gate.beside({ SOBER_GATE_ROLES: 'worker' })
    await until('all sentences are made anew', async () =>
      (await rows<{ n: number }>(`select (select count(*) from versions where words_version = 0)::int
        + (select count(*) from proposals where words_version = 0)::int n`))[0]!.n === 0)
    await until('nothing waits', async () => (await rows(`select 1 from jobs where state in ('waiting', 'running')`)).length === 0)
    await worked.stop()
    const { body } = await admin('GET', '/api/audit-events?limit=200')
    const words = (body.items as { words: string }[]).map(i => i.words)
    expect(words.filter(w => /slow lane|\bacting\b|watching|judged|taken back|took back|the house|undefined|null/.test(w))).toEqual([])
    const shown = (await admin('GET', '/api/proposals')).body.items as { words: string }[]
    expect(shown.length).toBeGreaterThan(5)
    expect(shown.filter(p => !p.words || /slow lane|\bacting\b|watching/.test(p.words))).toEqual([])
  })

  it('has done the jobs that waited', async () => {
    const jobs = await rows(
      `select kind, state, error, count(*)::int n from jobs where kind in ('many', 'existing', 'purge') group by 1, 2, 3 order by 1`,
    )
    expect(jobs).toEqual([
      { kind: 'existing', state: 'done', error: null, n: 5 },
      { kind: 'many', state: 'done', error: null, n: 2 },
      { kind: 'purge', state: 'done', error: null, n: 1 },
    ])
    // All of the worker's low priority to the inbox, all spam marked as unwanted, and what one sender had in the bin deleted.
    const [moved, marked] = [await copiesOf('many', 'moved'), await copiesOf('many', 'marked')]
    expect([moved.length > 1, new Set(moved.map(c => c.lane))]).toEqual([true, new Set(['inbox'])])
    expect([marked.length > 1, new Set(marked.map(c => c.judgement))]).toEqual([true, new Set(['unwanted'])])
    expect(await rows(`select 1 from copies where lane = 'bin' and sender_address = 'b@any.test'`)).toEqual([])
    expect((await rows(`select reason from copies where erased and sender_address = 'b@any.test'`)).length).toBeGreaterThan(0)
  })

  it('lets every open proposal be answered, and every open request', async () => {
    const { items } = (await admin('GET', '/api/proposals')).body as { items: { id: number, state: string }[] }
    const open = items.filter(p => p.state === 'open')
    expect(open.length).toBe(6)
    const answered: string[] = []
    for (const [i, { id }] of open.entries()) {
      const { version } = (await admin('GET', '/api/directory')).body.policy
      const decline = { accept: false, reason: 'not now' }
      const form = i === 0 ? decline : { accept: true, base: version, confirmed: { broad: true } }
      const first = await admin('POST', `/api/proposals/${id}/answer`, form)
      // The order of all rules does not fit any more once another proposal deleted one of them: that is said, and it can be declined.
      const { status, body } = first.status === 409 ? await admin('POST', `/api/proposals/${id}/answer`, decline) : first
      answered.push(`${status} ${body.state ?? body.detail}`)
    }
    expect([...answered].sort()).toEqual([...Array(5).fill('200 accepted'), '200 declined'])
    const requests = await rows<{ id: string }>(`select id from release_requests where state = 'open' order by id`)
    expect(requests.length).toBeGreaterThan(1)
    for (const [i, { id }] of requests.entries()) {
      const answer = i ? { release: true } : { release: false, reason: 'forged' }
      const { status, body } = await reviewer('POST', `/api/release-requests/${id}/answer`, answer)
      expect([status, body.state]).toEqual([200, i ? 'released' : 'declined'])
    }
  })

  it('undoes every event that can be undone, the newest first', async () => {
    const callers = new Map<string, Caller>([['admin', admin], ['worker', worker], ['reviewer', reviewer]])
    const callerOf = async (person: string) => {
      const name = person.slice(0, -OURS.length - 1)
      if (!callers.has(name)) callers.set(name, await signIn(gate, name))
      return callers.get(name)!
    }
    const events = await rows<{ id: string, kind: string, person_id: string | null }>(`select id, kind, person_id from audit_events e
      where not exists (select 1 from audit_events u where u.undoes = e.id) order by id desc`)
    const failed: unknown[] = []
    const undone: Record<string, number> = {}
    for (const { id, kind, person_id: person } of events) {
      const who = person === null ? admin : await callerOf(person)
      const { body } = await who('GET', `/api/audit-events?limit=1&cursor=${Number(id) + 1}`)
      const shown = body.items[0] as { id: number, canUndo: boolean, words: string }
      if (shown.id !== Number(id) || !shown.canUndo) {
        if (!NOT_UNDOABLE.includes(kind)) failed.push([kind, id, 'is not offered', shown.words])
        continue
      }
      const before = await rows<{ before: { lane?: string } | null, copy: string }>(
        `select before, copy_id as copy from audit_event_items where event_id = ${id} and before ? 'lane' and not before ? 'version'`,
      )
      const answer = await undo(who, Number(id))
      // What undoing newer events restored counts as changed after this one, and what uses it may still be there: that is so with every
      // version of the product.
      if ([404, 409, 422].includes(answer.status) && (kind === 'changed' || kind === 'proposed')) continue
      if (answer.status !== 200) failed.push([kind, id, answer.status, answer.body.detail, shown.words])
      else undone[kind] = (undone[kind] ?? 0) + 1
      for (const item of before) {
        const [copy] = await rows<{ lane: string }>(`select lane from copies where id = ${item.copy}`)
        if (answer.status === 200 && copy!.lane !== item.before!.lane) failed.push([kind, id, item, copy])
      }
    }
    expect(failed).toEqual([])
    expect(undone).toEqual({
      binned: 1,
      changed: 26,
      changedQuarantine: 1,
      changedSettings: 1,
      declined: 2,
      declinedRequest: 2,
      marked: 28,
      moved: 7,
      proposed: 8,
      released: 5,
      requestedRelease: 5,
    })
  })

  it('reads changes that a script still writes in the old format', () => {
    const old = [
      {
        put: 'rule',
        rule: {
          name: 'R',
          owner: 'organisation',
          must: true,
          state: 'acting',
          when: { markedUpstream: true },
          except: [],
          claims: [{ stop: { to: 'drop' } }],
        },
      },
      { 'put': 'phrase set', 'phrase set': { name: 'S', owner: 'organisation', phrases: ['x'] } },
      { put: 'use', use: { list: 'l', owner: 'organisation', side: 'allow', state: 'watching', counts: 'not fail' } },
      { put: 'list', list: { name: 'L', owner: 'organisation', usualSide: 'block', on: false } },
      { put: 'entries', list: 'l', entries: [{ kind: 'domain and below', value: 'X.test' }] },
      { remove: 'entries', list: 'l', entries: [{ kind: 'mailing list', value: 'l.x.test' }] },
      { remove: 'use', id: 'u' },
      { order: 'organisation', rules: ['a', 'b'] },
    ]
    const read = readChanges(old) as { changes: PolicyChange[] }
    expect(read.changes).toEqual([
      {
        type: 'put',
        kind: 'rule',
        value: {
          name: 'R',
          owner: 'organisation',
          mandatory: true,
          state: 'enabled',
          when: { upstreamVerdict: true },
          except: [],
          claims: [{ stop: { to: 'discard' } }],
        },
      },
      { type: 'put', kind: 'phraseSet', value: { name: 'S', owner: 'organisation', phrases: ['x'] } },
      {
        type: 'put',
        kind: 'assignment',
        value: { list: 'l', owner: 'organisation', side: 'allow', state: 'monitor', counts: 'notFailed' },
      },
      { type: 'put', kind: 'list', value: { name: 'L', owner: 'organisation', usualSide: 'block', enabled: false } },
      { type: 'put', kind: 'entries', list: 'l', entries: [{ kind: 'domainAndSubdomains', value: 'x.test' }] },
      { type: 'remove', kind: 'entries', list: 'l', entries: [{ kind: 'mailingList', value: 'l.x.test' }] },
      { type: 'remove', kind: 'assignment', id: 'u' },
      { type: 'order', kind: 'rule', owner: 'organisation', ids: ['a', 'b'] },
    ])
  })
})
