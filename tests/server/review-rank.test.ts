// Where copies stand in their review, held against plain counting; and what happens to mail that nobody decides on.
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { likelihood, subjectKey, type Signs } from '#core/review'
import { changed, holding } from '../support/clauses'
import { type Caller, signIn, undo } from '../support/http'
import { setQuarantine } from '../support/settings'
import { install, type Installation, MEDIUM, receive } from '../support/installation'
import { OURS, personOf } from '../support/office'
import { holdRanking, type Copy } from '../support/questions'
import { jobEnded, until } from '../support/wait'

let gate: Installation
let admin: Caller
let reviewer: Caller
let worker: Caller

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'review_order', { contents: MEDIUM })
  admin = await signIn(gate, 'admin')
  reviewer = await signIn(gate, 'reviewer')
  worker = await signIn(gate, 'worker')
})
afterAll(() => gate.stop())

const REVIEWED = ['spam', 'quarantine', 'lowPriority', 'bin'] as const
const isDelivered = (c: Copy) => ['inbox', 'lowPriority', 'sent'].includes(c.lane)
const countUnranked = () => gate.ask.countCopies({ lanes: REVIEWED, isRanked: false })
const untilRanked = () => until('every copy has its place in the order', async () => (await countUnranked()) === 0)
const unrank = () => gate.ask.changeCopies({}, { rankedAt: null })
const receiveAbout = (subject: string, text: string) => receive(gate, { from: 'a@wait.test', subject, text })
async function quarantine(name: string, settings: object): Promise<string> {
  const { body: made } = await admin('POST', '/api/quarantines', { name })
  await changed(admin, holding(`to-${made.id}`, `${name} cargo`, made.id, { mandatory: undefined, name: `To ${name}` }))
  expect((await setQuarantine(admin, made.id, settings)).status).toBe(200)
  return made.id
}

describe('the stored order', () => {
  it('is what plain counting over every copy gives: no likely mistake stands where nobody finds it', async () => {
    await untilRanked()
    // All of it anew: siblings that were marked after a copy was ordered count as well.
    await unrank()
    await untilRanked()
    await expectPlainOrder()
  })

  it('is asked for anew by whatever touches a copy, and leaves no work behind that is done', async () => {
    const { id } = await gate.ask.oneCopy({ lane: 'spam', isMarked: false, isRanked: true })
    expect(await gate.ask.changeCopies({ ids: [id] }, { judgement: 'unwanted' })).toMatchObject([{ rankedAt: null }])
    await untilRanked()
    // What touches nothing that it follows from does not.
    await gate.ask.changeCopies({ ids: [id] }, { important: true, tags: ['x'] })
    expect((await gate.ask.copy(id)).rankedAt).not.toBeNull()
    expect((await gate.ask.jobs('rank')).length).toBeLessThanOrEqual(2)
  })

  it('is waited for by whoever opens Review while it is worked out: no message stands in a group that says nothing of it', async () => {
    await untilRanked()
    const all = await gate.ask.copies({ lane: 'quarantine', quarantine: 'general', isRanked: true })
    const copy = all.find(c => c.reviewClause?.startsWith('rule '))!
    const held = await holdRanking(gate.database, copy, gate.ask)
    try {
      const answer = reviewer('GET', '/api/review?lane=quarantine&quarantine=general&by=clause')
      const waits = until('it waits', () => gate.ask.countWaiting('select pg_advisory_xact_lock(%'), 20_000)
      await Promise.race([answer, waits])
      await held.commit()
      const { body } = await answer
      const { copies } = body.groups.find((g: { key: string }) => g.key === copy.reviewClause)
      expect(copies).toBe(all.filter(c => c.reviewClause === copy.reviewClause).length)
    }
    finally {
      await held.end()
    }
  })

  it('is the same when several who ask at once and the job beside all put it in order', async () => {
    await unrank()
    const answers = await Promise.all([admin, reviewer, worker, admin].map(who => who('GET', '/api/review?by=sender')))
    expect(answers.map(a => a.status)).toEqual([200, 200, 200, 200])
    // Of the quarantine, which both see whole, nothing is left out of an answer, and none of its copies is told twice.
    const held = await gate.ask.countCopies({ lane: 'quarantine', quarantine: 'general' })
    for (const { body } of [answers[0]!, answers[1]!, answers[3]!]) {
      expect(body.total).toBe(held)
      expect(body.groups.reduce((n: number, g: { copies: number }) => n + g.copies, 0)).toBe(held)
    }
    await untilRanked()
    await expectPlainOrder()
  })
})

/** Holds the place of every copy against counting plainly over all of them. */
async function expectPlainOrder() {
  const all = await gate.ask.reviewedCopies()
  const claims = await gate.ask.decidingClaims()
  const byId = new Map(all.map(r => [r.copy.id, r.copy]))
  const recipientOf = (c: Copy) => c.personId ?? c.recipient
  let reviewed = 0
  for (const { copy, clause, verdict, isAskedFor } of all.filter(r => (REVIEWED as readonly string[]).includes(r.copy.lane))) {
    reviewed++
    const speaks = (c: Copy) => copy.lane === 'quarantine' || recipientOf(c) === recipientOf(copy)
    const siblings = [...byId.values()].filter(
      c => c.id !== copy.id && copy.senderAddress !== '' && c.senderAddress === copy.senderAddress && speaks(c),
    )
    // A From that nothing verified is anybody's: it credits no sender.
    const credited = siblings.filter(c => c.verdict === 'pass')
    const took = new Set(claims.filter(t => clause && t.clauseKind === clause.kind && t.clauseId === clause.id).map(t => t.copyId))
    const marked = [...took].map(id => byId.get(id)!).filter(c => c.judgement !== null && speaks(c))
    const signs: Signs = {
      asked: isAskedFor,
      verdict: verdict as Signs['verdict'],
      delivered: credited.filter(isDelivered).length,
      stopped: siblings.filter(c => !isDelivered(c)).length,
      wanted: credited.filter(c => c.judgement === 'wanted').length,
      unwanted: siblings.filter(c => c.judgement === 'unwanted').length,
      opened: credited.filter(c => c.firstOpenedAt !== null).length,
      marked: marked.length,
      right: marked.filter(c => c.judgement === 'unwanted').length,
    }
    const plain = likelihood(signs)
    expect([copy.subject, copy.likely, copy.likelyWhy]).toEqual([copy.subject, plain.points, plain.why])
    expect(copy.reviewSubject).toBe(subjectKey(copy.subject))
    expect(copy.reviewClause).toBe(isAskedFor ? 'asked' : copy.movedBy ? 'hand' : clause ? `${clause.kind} ${clause.id}` : null)
  }
  expect(reviewed).toBeGreaterThan(60)
}

describe('held mail that nobody decides on', () => {
  it('goes where its quarantine says after its longest wait; what is asked for, or came lately, waits on', async () => {
    const [binned, released, rejected] = [
      await quarantine('Ballast', { waitDays: 5, afterWait: 'bin' }),
      await quarantine('Dunnage', { waitDays: 5, afterWait: 'release' }),
      await quarantine('Jetsam', { waitDays: 5, afterWait: 'bin' }),
    ]
    const old = [
      await receiveAbout('old ballast', 'Ballast cargo'),
      await receiveAbout('old dunnage', 'Dunnage cargo'),
      await receiveAbout('old jetsam', 'Jetsam cargo'),
    ]
    const asked = await receiveAbout('asked jetsam', 'Jetsam cargo')
    expect(old.map(c => c.quarantineId)).toEqual([binned, released, rejected])
    const forged = await receive(gate, {
      from: `director@${OURS}`, subject: 'forged dunnage', text: 'Dunnage cargo', relay: true, auth: 'fail',
    })
    expect(forged.quarantineId).toBe(released)
    await worker('POST', '/api/release-requests', { ids: [asked.id], note: 'mine' })
    await gate.ask.ageCopies([...old, asked, forged].map(c => c.id), 6)
    const fresh = await receiveAbout('fresh jetsam', 'Jetsam cargo')
    await jobEnded(admin, await gate.ask.runDaily())
    expect(
      await Promise.all([...old, asked, fresh].map(async c => (await gate.ask.copy(c.id)).lane)),
    ).toEqual(['bin', 'inbox', 'bin', 'quarantine', 'quarantine'])
    // What claims your own domain, and failed authentication, is let in by a person who has seen that, and not by its age.
    expect((await gate.ask.copy(forged.id)).lane).toBe('quarantine')
    // Nobody has looked: that says nothing of what is wanted.
    expect(await gate.ask.copy(old[1]!.id)).toMatchObject({ judgement: null, movedBy: 'quarantine expiry' })
    const auditEvents = (await admin('GET', '/api/audit-events?limit=50')).body.items as { by: string | null, words: string }[]
    expect(auditEvents.filter(a => a.by === null).map(a => a.words)).toContain(
      'moved 1 message to Bin as unwanted: no decision within 5 days',
    )
  })

  it('is counted above for whom it waits: a reviewer, a deputy, and readers where they are told', async () => {
    const waiting = async (who: Caller) => (await who('GET', '/api/review/count')).body.waiting as number
    const before = [await waiting(reviewer), await waiting(worker)]
    const id = await quarantine('Flotsam', { notified: true })
    await receiveAbout('flotsam', 'Flotsam cargo')
    expect([await waiting(reviewer), await waiting(worker)]).toEqual([before[0]! + 1, before[1]! + 1])
    await setQuarantine(admin, id, { reviewers: [personOf('admin')], notified: false })
    expect([await waiting(reviewer), await waiting(worker)]).toEqual([before[0], before[1]])
    // Where all who are named are here no more, or review no more, it is everybody's again.
    await gate.ask.changePerson(personOf('admin'), { role: 'worker' })
    expect(await waiting(reviewer)).toBe(before[0]! + 1)
    await gate.ask.changePerson(personOf('admin'), { role: 'administrator' })
    expect(await waiting(reviewer)).toBe(before[0])
    // The deputy reviews it, too.
    expect((await setQuarantine(admin, id, { deputy: personOf('reviewer') })).status).toBe(200)
    expect(await waiting(reviewer)).toBe(before[0]! + 1)
    expect(await gate.ask.countCopies({ person: personOf('worker'), lane: 'quarantine' })).toBeGreaterThan(0)
  })

  it('is settled by who may alone, and by what makes sense: the general quarantine names nobody, and a wait is some days', async () => {
    const settle = (who: Caller, id: string, body: object) => setQuarantine(who, id, body)
    expect((await settle(reviewer, 'general', { waitDays: 3 })).status).toBe(403)
    expect((await settle(admin, 'general', { reviewers: [personOf('reviewer')] })).status).toBe(422)
    expect((await settle(admin, 'nowhere', { waitDays: 3 })).status).toBe(404)
    for (const waitDays of [0, -1, 366, 1.5, 'soon'])
      expect([waitDays, (await settle(admin, 'general', { waitDays })).status]).toEqual([waitDays, 422])
    // The same once more is no event.
    const { body: once } = await settle(admin, 'general', { waitDays: 30 })
    expect(once.eventId).not.toBeNull()
    expect((await settle(admin, 'general', { waitDays: 30 })).body.eventId).toBeNull()
    // Two acts later the first cannot be undone over what came since.
    await settle(admin, 'general', { waitDays: 40 })
    expect((await undo(admin, once.eventId)).status).toBe(409)
    const { body: settings } = await admin('GET', '/api/settings')
    expect(settings.quarantines.find((q: { id: string }) => q.id === 'general').waitDays).toBe(40)
  })
})
