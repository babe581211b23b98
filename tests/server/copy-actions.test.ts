// What a page offers is what the server does: a key that is refused, or a message that nobody is told they may release, costs trust.
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { KEPT_LANES } from '#core'
import { type Caller, signIn, undo } from '../support/http'
import { install, type Installation, receive, SMALL } from '../support/installation'
import { setQuarantine } from '../support/settings'

let gate: Installation
const callers: Record<string, Caller> = {}

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'copy_actions', { contents: SMALL })
  for (const who of ['admin', 'reviewer', 'worker']) callers[who] = await signIn(gate, who)
})
afterAll(() => gate.stop())

interface Actions { move: string[], release: boolean, requestRelease: boolean, decline: boolean, mark: boolean }
interface View { id: number, lane: string, version: number, can: Actions, releaseRequested: boolean }

const shown = async (who: Caller): Promise<View[]> => (await who('GET', '/api/copies?limit=200')).body.items
const settingsOf = async (id: string) => {
  const { body } = await callers.admin!('GET', '/api/settings')
  const { name: _n, general: _g, version: _v, id: _i, ...known } = body.quarantines.find((q: { id: string }) => q.id === id)
  return known as object
}
/** One message of each way to be treated: enough to try everything with each. */
function samples(all: readonly View[]): View[] {
  return [...new Map(all.map(v => [JSON.stringify([v.lane, v.can, v.releaseRequested]), v])).values()]
}

describe.each(['admin', 'reviewer', 'worker'])('for %s', (name) => {
  const who = () => callers[name]!
  it.each([
    ['as quarantines are', {}],
    ['where recipients release their own', { canRelease: true, canRequest: true, visible: true }],
    ['where release cannot be requested', { canRelease: false, canRequest: false, visible: true }],
  ])('what a message says of itself is what comes of it, %s', async (_, form) => {
    await receive(gate, { from: 'x@elsewhere.example', subject: `acted ${name}`, text: 'the release fee is due' })
    await setQuarantine(callers.admin!, 'general', { ...(await settingsOf('general')), ...form })
    const tried = samples(await shown(who()))
    expect(new Set(tried.map(t => t.lane)).size).toBeGreaterThan(name === 'reviewer' ? 0 : 2)
    for (const { id, lane, can } of tried) {
      for (const to of KEPT_LANES) {
        const quarantine = to === 'quarantine' ? { quarantine: 'general' } : {}
        const move = (more: object) =>
          who()('POST', '/api/copies/lane', { ids: [id], versions: 'any', lane: to, ...quarantine, ...more })
        const asked = await move({})
        // What may be forged is asked about once, and then moved.
        const { status, body } = asked.body.type?.endsWith(':forged') ? await move({ confirmed: [id] }) : asked
        expect([name, id, lane, to, status < 300]).toEqual([name, id, lane, to, can.move.includes(to)])
        if (body.eventId) expect((await undo(who(), body.eventId)).status).toBe(200)
      }
      const asked = await who()('POST', '/api/release-requests', { ids: [id], note: '' })
      expect([name, id, 'request', asked.status < 300 && asked.body.asked > 0]).toEqual([name, id, 'request', can.requestRelease])
      if (asked.body.eventId) await undo(who(), asked.body.eventId)
      const marked = await who()('POST', '/api/copies/judgement', { ids: [id], versions: 'any', value: 'wanted' })
      expect([name, id, 'mark', marked.status < 300]).toEqual([name, id, 'mark', can.mark])
      if (marked.body.eventId) await undo(who(), marked.body.eventId)
    }
  })
  it('release is a move out of quarantine, and nothing else is', async () => {
    for (const { lane, can } of await shown(who()))
      expect([lane, can.release]).toEqual([lane, lane === 'quarantine' && can.move.includes('inbox')])
  })
})

describe('a release that was requested', () => {
  it('is not requested twice, and the message is not binned without a reason', async () => {
    await setQuarantine(callers.admin!, 'general', { ...(await settingsOf('general')), canRelease: false, canRequest: true, visible: true })
    const { id } = await receive(gate, { from: 'y@elsewhere.example', subject: 'acted twice', text: 'the release fee is due' })
    const of = async (who: Caller) => (await shown(who)).find(v => v.id === id)!
    expect((await of(callers.worker!)).can).toMatchObject({ requestRelease: true, release: false, decline: false })
    await callers.worker!('POST', '/api/release-requests', { ids: [id], note: '' })
    expect(await of(callers.worker!)).toMatchObject({ releaseRequested: true, can: { requestRelease: false } })
    const seen = (await of(callers.reviewer!)).can
    expect([seen.decline, seen.move.includes('bin'), seen.release]).toEqual([true, false, true])
    const binned = await callers.reviewer!('POST', '/api/copies/lane', { ids: [id], versions: 'any', lane: 'bin' })
    expect([binned.status, binned.body.detail]).toEqual([422, expect.stringContaining('request')])
  })
})
