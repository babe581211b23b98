// Where copies stand in their review, held against plain counting; and what happens to mail that nobody decides on.
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { likelihood, subjectKey, type Signs } from '#core/review'
import { callerFor, handOver, install, plainMessage, smtp, type Caller, type Installation } from './support/installation'

const OURS = 'saltmere-harbour.example'
const WORKER_ID = `worker-${OURS}`
let gate: Installation
let admin: Caller
let reviewer: Caller
let worker: Caller

async function signIn() {
  admin = await callerFor(gate.url, `admin@${OURS}`)
  reviewer = await callerFor(gate.url, `reviewer@${OURS}`)
  worker = await callerFor(gate.url, `worker@${OURS}`)
}
beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'review_order', { SOBER_GATE_DEMO_MESSAGES: '300' })
  await signIn()
})
afterAll(() => gate.stop())

type Row = Record<string, any> // eslint-disable-line @typescript-eslint/no-explicit-any
const rows = async (text: string, values: unknown[] = []) => (await gate.database.query(text, values)).rows as Row[]
const copyOf = async (id: number) => (await rows('select * from copies where id = $1', [id]))[0]!
const REVIEWED = ['spam', 'quarantine', 'slow lane', 'bin']
const isDelivered = (c: Row) => ['inbox', 'slow lane', 'sent'].includes(c.lane)

async function untilOrdered() {
  for (let i = 0; i < 120; i++) {
    const [left] = await rows('select count(*)::int n from copies where ordered_at is null and lane = any($1)', [REVIEWED])
    if (!left!.n) return
    await new Promise(r => setTimeout(r, 500))
  }
  throw new Error('it is not put in order')
}
async function receive(subject: string, text: string, to = `worker@${OURS}`) {
  await smtp(gate.smtpPort, handOver('a@wait.test', [to], plainMessage({ from: 'a@wait.test', subject, text })))
  const [copy] = await rows('select * from copies where subject = $1 order by id desc limit 1', [subject])
  return { ...copy!, id: Number(copy!.id) } as Row
}
async function change(...changes: object[]) {
  const base = (await admin('GET', '/api/directory')).body.policy.version
  expect((await admin('POST', '/api/changes', { base, changes, coming: true, confirmed: { broad: true } })).status).toBe(200)
}
async function quarantine(name: string, settings: object): Promise<string> {
  const { body: made } = await admin('POST', '/api/quarantines', { name })
  await change({
    put: 'rule',
    rule: {
      id: `to-${made.id}`,
      name: `To ${name}`,
      owner: 'organisation',
      state: 'acting',
      when: { phrases: [`${name} cargo`] },
      except: [],
      claims: [{ stop: { to: 'quarantine', quarantine: made.id } }],
    },
  })
  expect((await admin('PUT', `/api/quarantines/${made.id}`, settings)).status).toBe(200)
  return made.id
}

describe('the stored order', () => {
  it('is what plain counting over every copy gives: no likely mistake stands where nobody finds it', async () => {
    await untilOrdered()
    // All of it anew: siblings that were judged after a copy was ordered count as well.
    await rows('update copies set ordered_at = null')
    await untilOrdered()
    const all = await rows(`
      select c.*, a.authentication ->> 'verdict' verdict, r.reasons -> r.decided_by -> 'clause' clause,
        exists (select 1 from requests q where q.copy_id = c.id and q.state = 'open') asked
      from copies c join attempts a on a.id = c.attempt_id left join rulings r on r.id = c.ruling_id`)
    const claims = await rows('select * from ruling_claims where fate in (\'decided\', \'agreed\')')
    const byId = new Map(all.map(c => [c.id, c]))
    const reader = (c: Row) => c.person_id ?? c.recipient
    let reviewed = 0
    for (const copy of all.filter(c => REVIEWED.includes(c.lane))) {
      reviewed++
      const speaks = (c: Row) => copy.lane === 'quarantine' || reader(c) === reader(copy)
      const siblings = all.filter(
        c => c.id !== copy.id && copy.sender_address !== '' && c.sender_address === copy.sender_address && speaks(c),
      )
      const took = new Set(
        claims.filter(t => copy.clause && t.clause_kind === copy.clause.kind && t.clause_id === copy.clause.id).map(t => t.copy_id),
      )
      const judged = [...took].map(id => byId.get(id)!).filter(c => c.judgement !== null && speaks(c))
      const signs: Signs = {
        asked: copy.asked,
        verified: copy.verdict === 'pass',
        delivered: siblings.filter(isDelivered).length,
        stopped: siblings.filter(c => !isDelivered(c)).length,
        wanted: siblings.filter(c => c.judgement === 'wanted').length,
        unwanted: siblings.filter(c => c.judgement === 'unwanted').length,
        opened: siblings.filter(c => c.first_opened_at !== null).length,
        judged: judged.length,
        right: judged.filter(c => c.judgement === 'unwanted').length,
      }
      const plain = likelihood(signs)
      expect([copy.subject, copy.likely, copy.likely_why]).toEqual([copy.subject, plain.points, plain.why])
      expect(copy.review_subject).toBe(subjectKey(copy.subject))
      expect(copy.review_clause).toBe(
        copy.asked ? 'asked' : copy.moved_by ? 'hand' : copy.clause ? `${copy.clause.kind} ${copy.clause.id}` : null,
      )
    }
    expect(reviewed).toBeGreaterThan(60)
  })

  it('is asked for anew by whatever touches a copy, and leaves no work behind that is done', async () => {
    const [copy] = await rows(
      'select id from copies where lane = \'spam\' and judgement is null and ordered_at is not null order by id limit 1',
    )
    const judged = await rows('update copies set judgement = \'unwanted\' where id = $1 returning ordered_at', [copy!.id])
    expect(judged).toEqual([{ ordered_at: null }])
    await untilOrdered()
    // What touches nothing that it follows from does not.
    await rows('update copies set important = true, tags = \'{x}\' where id = $1', [copy!.id])
    expect((await copyOf(copy!.id)).ordered_at).not.toBeNull()
    const [jobs] = await rows('select count(*)::int n from jobs where kind = \'review order\'')
    expect(jobs!.n).toBeLessThanOrEqual(2)
  })

  it('is gone through by hundreds at once and by two at a time, and nothing is lost between', async () => {
    await rows('update copies set ordered_at = null')
    const answers = await Promise.all([admin, reviewer, worker, admin].map(who => who('GET', '/api/review?by=sender')))
    expect(answers.map(a => a.status)).toEqual([200, 200, 200, 200])
    await untilOrdered()
  })
})

describe('held mail that nobody decides on', () => {
  it('goes where its quarantine says after its longest wait; what is asked for, or came lately, waits on', async () => {
    const [binned, released, rejected] = [
      await quarantine('Ballast', { waitDays: 5, afterWait: 'bin' }),
      await quarantine('Dunnage', { waitDays: 5, afterWait: 'release' }),
      await quarantine('Jetsam', { waitDays: 5, afterWait: 'reject' }),
    ]
    const old = [
      await receive('old ballast', 'Ballast cargo'),
      await receive('old dunnage', 'Dunnage cargo'),
      await receive('old jetsam', 'Jetsam cargo'),
    ]
    const asked = await receive('asked jetsam', 'Jetsam cargo')
    expect(old.map(c => c.quarantine_id)).toEqual([binned, released, rejected])
    await worker('POST', '/api/requests', { ids: [asked.id], note: 'mine' })
    const aged = [...old, asked].map(c => c.id)
    await rows('update copies set lane_since = now() - interval \'6 days\' where id = any($1)', [aged])
    await rows(
      'update messages set created_at = now() - interval \'6 days\' where id in (select message_id from copies where id = any($1))',
      [aged],
    )
    const fresh = await receive('fresh jetsam', 'Jetsam cargo')
    await rows('delete from jobs where kind = \'keeping\'')
    await gate.kill()
    await gate.restart()
    await signIn()
    const isDone = async () => (await rows('select 1 from jobs where kind = \'keeping\' and state = \'done\'')).length > 0
    for (let i = 0; i < 240 && !(await isDone()); i++) await new Promise(r => setTimeout(r, 250))
    expect(
      await Promise.all([...old, asked, fresh].map(async c => (await copyOf(c.id)).lane)),
    ).toEqual(['bin', 'inbox', 'bin', 'quarantine', 'quarantine'])
    // Nobody has looked: that says nothing of what is wanted.
    expect(await copyOf(old[1]!.id)).toMatchObject({ judgement: null, moved_by: 'the longest wait' })
    const acts = (await admin('GET', '/api/acts?limit=50')).body.items as Row[]
    expect(acts.filter(a => a.by === null).map(a => a.words)).toContain('rejected one message: nobody decided in 5 days')
  })

  it('is counted above for whom it waits: a reviewer, a deputy, and readers where they are told', async () => {
    const waiting = async (who: Caller) => (await who('GET', '/api/review/count')).body.waiting as number
    const before = [await waiting(reviewer), await waiting(worker)]
    const id = await quarantine('Flotsam', { told: true })
    await receive('flotsam', 'Flotsam cargo')
    expect([await waiting(reviewer), await waiting(worker)]).toEqual([before[0]! + 1, before[1]! + 1])
    await admin('PUT', `/api/quarantines/${id}`, { reviewers: [`admin-${OURS}`], told: false })
    expect([await waiting(reviewer), await waiting(worker)]).toEqual([before[0], before[1]])
    // Where all who are named are here no more, or review no more, it is everybody's again.
    await rows('update people set role = \'worker\' where id = $1', [`admin-${OURS}`])
    expect(await waiting(reviewer)).toBe(before[0]! + 1)
    await rows('update people set role = \'administrator\' where id = $1', [`admin-${OURS}`])
    expect(await waiting(reviewer)).toBe(before[0])
    // The deputy reviews it, too.
    expect((await admin('PUT', `/api/quarantines/${id}`, { deputy: `reviewer-${OURS}` })).status).toBe(200)
    expect(await waiting(reviewer)).toBe(before[0]! + 1)
    expect((await rows('select 1 from copies where person_id = $1 and lane = \'quarantine\'', [WORKER_ID])).length).toBeGreaterThan(0)
  })

  it('is settled by who may alone, and by what makes sense: the general one names nobody, and a wait is some days', async () => {
    const settle = (who: Caller, id: string, body: object) => who('PUT', `/api/quarantines/${id}`, body)
    expect((await settle(reviewer, 'general', { waitDays: 3 })).status).toBe(403)
    expect((await settle(admin, 'general', { reviewers: [`reviewer-${OURS}`] })).status).toBe(422)
    expect((await settle(admin, 'nowhere', { waitDays: 3 })).status).toBe(404)
    for (const waitDays of [0, -1, 366, 1.5, 'soon'])
      expect([waitDays, (await settle(admin, 'general', { waitDays })).status]).toEqual([waitDays, 422])
    // The same once more is no act.
    const { body: once } = await settle(admin, 'general', { waitDays: 30 })
    expect(once.act).not.toBeNull()
    expect((await settle(admin, 'general', { waitDays: 30 })).body.act).toBeNull()
    // Two acts later the first cannot be taken back over what came since.
    await settle(admin, 'general', { waitDays: 40 })
    expect((await admin('POST', `/api/acts/${once.act}/undo`)).status).toBe(409)
    const { body: house } = await admin('GET', '/api/house')
    expect(house.quarantines.find((q: Row) => q.id === 'general').waitDays).toBe(40)
  })
})
