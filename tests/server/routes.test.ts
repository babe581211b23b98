import { readdirSync } from 'node:fs'
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { EntryTable, readPolicy } from '#core'
import { grantFor } from '../../server/access/routes'
import compile, { type CompiledOnThread } from '../../server/workers/compile'
import { rule, tried } from '../support/clauses'
import { type Caller, signIn, undo } from '../support/http'
import { install, type Installation, receive, SETUP_TOKEN } from '../support/installation'
import { addressOf, ownerOf } from '../support/office'
import { handOver, plainMessage, smtp } from '../support/smtp'

const ROLES = ['administrator', 'reviewer', 'worker'] as const
let gate: Installation
let begun: CompiledOnThread
let as: Record<(typeof ROLES)[number] | 'nobody', Caller>

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'routes')
  const sign = (name: string) => signIn(gate, name)
  process.env.DATABASE_URL = gate.databaseUrl
  begun = await compile({ earlier: null })
  as = {
    administrator: await sign('admin'),
    reviewer: await sign('reviewer'),
    worker: await sign('worker'),
    nobody: await signIn(gate, null),
  }
})
afterAll(() => gate.stop())

describe('who may call what: somebody would read or change what is not theirs', () => {
  it('names every route that there is', () => {
    const files = readdirSync(new URL('../../server/api', import.meta.url), {
      recursive: true,
      encoding: 'utf8',
    }).filter(f => /\.(?:get|post|put|delete)\.ts$/.test(f))
    for (const file of files) {
      const [, path, method] = /^(.*)\.(get|post|put|delete)\.ts$/.exec(file)!
      expect([
        file,
        grantFor(method!.toUpperCase(), `/api/${path!.replace(/\/?index$/, '').replace(/\[id\]/g, '7')}`) !== null,
      ]).toEqual([file, true])
    }
  })
  it('says of an unknown path that nothing is there, in a problem document', async () => {
    const answer = await as.worker('GET', '/api/secrets')
    expect([answer.status, answer.headers.get('content-type'), answer.body.status]).toEqual([
      404,
      'application/problem+json',
      404,
    ])
  })
  it('a signed-out cookie opens nothing any more', async () => {
    const deactivation = await signIn(gate, 'emeka.strand')
    expect((await deactivation('GET', '/api/copies')).status).toBe(200)
    expect((await deactivation('DELETE', '/api/session')).status).toBe(204)
    expect((await deactivation('GET', '/api/copies')).status).toBe(401)
  })
  it('the setup link is worth nothing once there is an administrator', async () => {
    expect((await as.nobody('GET', `/api/setup?token=${SETUP_TOKEN}`)).body).toEqual({ open: false })
    expect(
      (
        await as.nobody('POST', '/api/setup', {
          token: SETUP_TOKEN,
          name: 'M',
          address: 'm@x.example',
          password: 'quite long enough',
          domains: ['x.example'],
        })
      ).status,
    ).toBe(403)
  })
})

describe('a worker’s view: somebody else’s mail would lie open', () => {
  it('shows own copies only, and other people’s not by number either', async () => {
    const recipients = (await as.worker('GET', '/api/copies?limit=200')).body.items.map((c: { recipient: string }) =>
      c.recipient.replace(/@.*/, ''),
    )
    expect(recipients).toContain('oskar.brandt')
    expect(recipients.filter((r: string) => !['worker', 'oskar.brandt', 'accounts'].includes(r))).toEqual([])
    const other = (await as.administrator('GET', '/api/copies?recipient=runa.keel@saltmere-harbour.example&limit=1'))
      .body.items[0]
    for (const path of [`/api/copies/${other.id}`, `/api/copies/${other.id}/source`])
      expect((await as.worker('GET', path)).status).toBe(404)
    expect((await as.worker('POST', '/api/copies/lane', { ids: [other.id], versions: 'any', lane: 'bin' })).status).toBe(404)
  })
  it('reads the organisation’s rules, may not change them, may make own ones', async () => {
    const rules = (await as.worker('GET', '/api/rules')).body.items
    const fee = rules.find((r: { id: string }) => r.id === 'fee-demands')
    expect(fee.canChange).toBe(false)
    expect((await as.worker('PUT', '/api/rules/fee-demands', { ...rule('Otters'), version: fee.version })).status).toBe(403)
    expect((await as.worker('DELETE', `/api/rules/fee-demands?version=${fee.version}`)).status).toBe(403)
    expect((await as.worker('POST', '/api/rules', rule('otter'))).status).toBe(403)
    const own = await as.worker('POST', '/api/rules', rule('otter', { owner: ownerOf('worker') }))
    expect(own.status).toBe(201)
    expect((await as.administrator('GET', `/api/rules/${own.body.id}`)).status).toBe(404)
  })
  it('a worker neither releases from a quarantine nor tries mail to others', async () => {
    await receive(gate, { subject: 'heron', text: 'release fee' })
    const [held] = (await as.worker('GET', '/api/copies?words=heron')).body.items
    expect((await as.worker('POST', '/api/copies/lane', { ids: [held.id], versions: 'any', lane: 'inbox' })).status).toBe(403)
    expect((await as.reviewer('POST', '/api/copies/lane', { ids: [held.id], versions: 'any', lane: 'inbox' })).status).toBe(200)
    expect(
      (
        await as.worker('POST', '/api/dry-run', tried({ recipient: addressOf('admin') }))
      ).status,
    ).toBe(403)
  })
  it('who opened whose mail is on record, one’s own is not', async () => {
    const [copy] = (await as.worker('GET', '/api/copies?words=heron')).body.items
    const opened = async () => (await gate.ask.eventsOn(copy.id, 'opened')).map(a => a.personId)
    await as.worker('GET', `/api/copies/${copy.id}`)
    expect(await opened()).toEqual([])
    await as.administrator('GET', `/api/copies/${copy.id}`)
    expect(await opened()).toEqual(['admin-saltmere-harbour.example'])
  })
})

describe('acts: a mistake could not be taken back, or would overwrite somebody else’s work', () => {
  const fresh = async (subject: string) => {
    await receive(gate, { subject, text: 'wheat futures' })
    return (await as.worker('GET', `/api/copies?words=${subject}`)).body.items[0]
  }
  const now = async (id: number) => (await as.administrator('GET', `/api/copies/${id}`)).body

  it('moving to the inbox implies wanted; what is said outweighs it; each is taken back by itself', async () => {
    const { id } = await fresh('badger')
    const moved = (await as.worker('POST', '/api/copies/lane', { ids: [id], versions: 'any', lane: 'inbox' })).body
    expect(await now(id)).toMatchObject({
      lane: 'inbox',
      movedBy: 'Oskar Brandt',
      reason: 'moved by Oskar Brandt',
      judgement: 'wanted',
      judgementStrength: 'implied',
    })
    await as.worker('POST', '/api/copies/judgement', { ids: [id], versions: 'any', value: 'unwanted' })
    expect(await now(id)).toMatchObject({ judgement: 'unwanted', judgementStrength: 'said' })
    await as.worker('POST', '/api/copies/judgement', { ids: [id], versions: 'any', value: null })
    expect(await now(id)).toMatchObject({ judgement: 'wanted', judgementStrength: 'implied' })
    expect((await undo(as.worker, moved.eventId)).status).toBe(200)
    expect(await now(id)).toMatchObject({ lane: 'spam', movedBy: null, judgement: null })
    expect((await undo(as.worker, moved.eventId)).status).toBe(409)
  })
  it('answers 409 when somebody else was faster, and changes nothing', async () => {
    const { id, version } = await fresh('lynx')
    const { eventId } = (await as.administrator('POST', '/api/copies/lane', { ids: [id], versions: 'any', lane: 'bin' })).body
    expect(
      (await as.worker('POST', '/api/copies/lane', { ids: [id], lane: 'inbox', versions: { [id]: version } })).status,
    ).toBe(409)
    await as.worker('POST', '/api/copies/lane', { ids: [id], versions: 'any', lane: 'inbox' })
    expect((await undo(as.administrator, eventId)).status).toBe(409)
    expect((await now(id)).lane).toBe('inbox')
  })
  it('of ten at the same time one wins', async () => {
    const race = (await as.administrator('POST', '/api/rules', rule('Race'))).body
    const tries = await Promise.all(
      Array.from({ length: 10 }, (_, i) =>
        as.administrator('PUT', `/api/rules/${race.id}`, { ...rule(`Race ${i}`), version: race.version }),
      ),
    )
    expect(tries.map(t => t.status).sort()).toEqual([200, ...Array(9).fill(409)])
  })
})

describe('releasing: a release would undo somebody else’s stop unseen, or lose the message', () => {
  const hold = (name: string, quarantine: string, phrase: string, more: object[] = []) =>
    as.administrator('POST', '/api/rules', rule(name, {
      when: { phrases: [phrase] },
      claims: [{ stop: { to: 'quarantine', quarantine } }, ...more],
    }))
  const held = async (subject: string, text: string) => {
    await receive(gate, { subject, text })
    return (await as.reviewer('GET', `/api/copies?words=${subject}`)).body.items[0]
  }
  const release = (id: number, more = {}) =>
    as.reviewer('POST', '/api/copies/lane', { ids: [id], versions: 'any', lane: 'inbox', ...more })
  const now = async (id: number) => (await as.administrator('GET', `/api/copies/${id}`)).body

  it('goes to the inbox, and what waited for it is done now', async () => {
    await hold('Plovers', 'general', 'plover', [{ effect: { kind: 'subjectPrefix', value: '[held]' } }])
    await as.administrator('POST', '/api/rules', rule('Plover mark', {
      when: { phrases: ['plover'] },
      claims: [{ effect: { kind: 'header', value: 'X-Plover: seen' } }],
    }))
    const copy = await held('dunlin', 'a plover')
    expect(
      (await now(copy.id)).reasons.find((r: { clause: { name: string } }) => r.clause.name === 'Plover mark').outcome,
    ).toEqual({ kind: 'waiting' })
    expect(await release(copy.id)).toMatchObject({ status: 200, body: { changed: 1, notReleased: [] } })
    expect(await now(copy.id)).toMatchObject({
      lane: 'inbox',
      movedBy: 'Runa Keel',
      judgement: 'wanted',
      judgementStrength: 'implied',
      history: [{ kind: 'released' }],
    })
    expect((await as.worker('GET', `/api/copies/${copy.id}/source`)).body).toContain('X-Plover: seen')
  })
  it('stops where another’s stop stands, says which, and two quarantines do not hand it to and fro', async () => {
    await hold('Terns one', 'security', 'tern')
    await hold('Terns two', 'general', 'tern')
    const copy = await held('sanderling', 'a tern')
    expect(copy.quarantine).toBe('security')
    const first = await release(copy.id)
    expect(first.body.notReleased).toMatchObject([
      { id: copy.id, lane: 'quarantine', quarantine: 'general', why: expect.stringContaining('Terns two') },
    ])
    expect(await now(copy.id)).toMatchObject({ lane: 'quarantine', quarantine: 'general', movedBy: null })
    expect((await release(copy.id)).body.notReleased).toEqual([])
    expect((await now(copy.id)).lane).toBe('inbox')
    expect((await undo(as.reviewer, first.body.eventId)).status).toBe(409)
  })
  it('is taken back whole: lane, ruling and what the ruling put on the copy', async () => {
    await hold('Rails', 'general', 'rail')
    const copy = await held('whimbrel', 'a rail')
    const before = await now(copy.id)
    const { body } = await release(copy.id)
    expect((await undo(as.reviewer, body.eventId)).status).toBe(200)
    expect(await now(copy.id)).toMatchObject({
      lane: 'quarantine',
      quarantine: 'general',
      reason: before.reason,
      reasons: before.reasons,
      judgement: null,
    })
  })
  it('past the reader’s own places, unless that is asked for; and never to where nothing comes back from', async () => {
    await as.worker('POST', '/api/rules', rule('My slow ones', {
      owner: ownerOf('worker'),
      when: { phrases: ['crake'] },
      claims: [{ place: { to: 'lowPriority' } }],
    }))
    await hold('Crakes', 'general', 'crake')
    const [straight, own] = [await held('godwit', 'a crake'), await held('curlew', 'a crake')]
    await release(straight.id)
    await release(own.id, { ownPlaces: true })
    expect([(await now(straight.id)).lane, (await now(own.id)).lane]).toEqual(['inbox', 'lowPriority'])
    await as.administrator('POST', '/api/rules', rule('Avocets gone', {
      when: { phrases: ['avocet'] },
      claims: [{ stop: { to: 'erase', confirmed: true } }],
    }))
    await hold('Avocets', 'general', 'avocet')
    const evidence = await held('knot', 'an avocet')
    expect(evidence.lane).toBe('quarantine')
    expect((await release(evidence.id)).body.notReleased).toMatchObject([{ lane: 'bin' }])
  })
})

describe('lists and rules: what was typed would be lost, or act otherwise than written', () => {
  it('adds what can be read, gives back what cannot, and acts at once', async () => {
    const made = await as.administrator('POST', '/api/lists', {
      name: 'Voles',
      owner: 'organisation',
      usualSide: 'block',
      assignment: { side: 'block', state: 'enabled', stop: { to: 'bin' } },
      entries: 'vole.test\n@vole.test',
    })
    expect([made.status, made.body.added.length]).toEqual([201, 1])
    const added = (
      await as.administrator('POST', `/api/lists/${made.body.id}/entries`, {
        text: 'a@vole.test, nonsense here\n@below.test',
        below: true,
      })
    ).body
    expect(added.added.map((e: { kind: string, value: string }) => `${e.kind} ${e.value}`)).toEqual([
      'address a@vole.test',
      'domainAndSubdomains below.test',
    ])
    expect(added.wrong).toMatchObject([{ text: 'nonsense here' }])
    await receive(gate, { from: 'q@deep.below.test', subject: 'weasel' })
    expect((await as.worker('GET', '/api/copies?words=weasel')).body.items[0]).toMatchObject({
      lane: 'bin',
      reason: 'list “Voles”',
    })
    const list = (await as.administrator('GET', `/api/lists/${made.body.id}`)).body
    expect(list.entries.find((e: { value: string }) => e.value === 'below.test')).toMatchObject({ hits: 1 })
    expect(
      (await as.administrator('POST', `/api/lists/${made.body.id}/removals`, { ids: [list.entries[0].id] })).body,
    ).toMatchObject({ removed: 1 })
  })
  it('one list serves the organisation, a department and a person, each as they say', async () => {
    const lane = async (from: string) =>
      (
        await as.worker('POST', '/api/dry-run', tried({ from, authentication: 'pass' }))
      ).body.decision.lane
    const list = (
      await as.administrator('POST', '/api/lists', {
        name: 'Gulls',
        owner: 'organisation',
        usualSide: 'block',
        assignment: { side: 'block', state: 'enabled', stop: { to: 'spam' } },
        entries: 'gull.test',
      })
    ).body.id
    const assignments = `/api/lists/${list}/assignments`
    const held = { side: 'block', state: 'enabled', stop: { to: 'quarantine', quarantine: 'general' } }
    expect((await as.administrator('POST', assignments, { owner: 'department:accounts', assignment: held })).status).toBe(201)
    expect(await lane('a@gull.test')).toBe('quarantine')
    const own = await as.worker('POST', assignments, {
      owner: ownerOf('worker'),
      assignment: { side: 'allow', state: 'enabled', protect: ['quarantine'] },
    })
    expect([own.status, await lane('a@gull.test')]).toEqual([201, 'spam'])
    // What somebody does for themselves is not for others to read, but they learn that somebody does.
    const seen = (await as.administrator('GET', `/api/lists/${list}`)).body
    expect([seen.assignments.map((b: { owner: string }) => b.owner), seen.assignedByOthers]).toEqual([
      ['organisation', 'department:accounts'],
      1,
    ])
    const mine = (await as.worker('GET', `/api/lists/${list}`)).body
    const line = mine.assignments.find((b: { id: string }) => b.id === own.body.id)
    expect(mine.assignments.map((b: { canChange: boolean }) => b.canChange)).toEqual([false, false, true])
    expect(
      (await as.reviewer('PUT', `/api/assignments/${line.id}`, { assignment: held, version: line.version })).status,
    ).toBe(404)
    expect(
      (
        await as.worker('PUT', `/api/assignments/${mine.assignments[0].id}`, {
          assignment: held,
          version: mine.assignments[0].version,
        })
      ).status,
    ).toBe(403)
    expect((await as.worker('POST', assignments, { owner: 'department:accounts', assignment: held })).status).toBe(403)
    expect(
      (
        await as.worker('PUT', `/api/assignments/${line.id}`, {
          assignment: { side: 'allow', state: 'enabled' },
          version: line.version,
        })
      ).status,
    ).toBe(200)
    expect((await as.worker('DELETE', `/api/assignments/${line.id}?version=${line.version}`)).status).toBe(409)
    expect(await lane('a@gull.test')).toBe('inbox')
    // The same use twice, a quarantine that is not there, somebody who is not there, somebody else's own list.
    const refused = async (who: Caller, to: string, body: unknown) =>
      Object.keys((await who('POST', to, body)).body.fields ?? {})
    expect(
      await refused(as.administrator, assignments, {
        owner: 'department:accounts',
        assignment: { side: 'block', state: 'enabled', stop: { to: 'bin' } },
      }),
    ).toEqual(['assignment.side'])
    expect(
      await refused(as.administrator, assignments, {
        owner: 'organisation',
        assignment: { ...held, direction: 'internal', stop: { to: 'quarantine', quarantine: 'nowhere' } },
      }),
    ).toEqual(['assignment.stop.quarantine'])
    expect(await refused(as.administrator, assignments, { owner: 'department:nobody', assignment: held })).toEqual(['owner'])
    const ownList = (
      await as.administrator('POST', '/api/lists', {
        name: 'Own gulls',
        owner: ownerOf('admin'),
        entries: 'gull.test',
      })
    ).body.id
    expect(
      await refused(as.administrator, `/api/lists/${ownList}/assignments`, { owner: 'organisation', assignment: held }),
    ).toEqual(['owner'])
    const now = (await as.worker('GET', `/api/lists/${list}`)).body.assignments[2]
    expect((await as.worker('DELETE', `/api/assignments/${now.id}?version=${now.version}`)).status).toBe(200)
    expect(await lane('a@gull.test')).toBe('quarantine')
  })
  it('another note or expiry for entries that there are; nothing else of them changes', async () => {
    const made = (
      await as.administrator('POST', '/api/lists', {
        name: 'Terns',
        owner: 'organisation',
        assignment: { side: 'block', state: 'enabled', stop: { to: 'discard', confirmed: true } },
        entries: ['a@tern.test', 'b@tern.test'],
      })
    ).body
    const lane = async () =>
      (
        await as.administrator('POST', '/api/dry-run', tried({ from: 'a@tern.test' }))
      ).body.decision.lane
    const changeEntries = async (body: object, who = as.administrator) => {
      const { seen } = (await as.administrator('GET', `/api/lists/${made.id}`)).body
      return who('PUT', `/api/lists/${made.id}/entries`, { seen, ...body })
    }
    const ids = made.added.map((e: { id: string }) => e.id)
    expect([
      await lane(),
      (await changeEntries({ ids, expires: '2020-01-01', note: 'gone' })).body.changed,
      await lane(),
    ]).toEqual(['discarded', 2, 'inbox'])
    // Living again it is wider than what was confirmed.
    expect([(await changeEntries({ ids: ids[0], expires: null })).status, await lane()]).toEqual([200, 'bin'])
    const { entries } = (await as.administrator('GET', `/api/lists/${made.id}`)).body
    expect(
      entries
        .map((e: { value: string, note: string, expired: boolean, addedBy: string }) => [
          e.value,
          e.note,
          e.expired,
          e.addedBy,
        ])
        .sort(),
    ).toEqual([
      ['a@tern.test', 'gone', false, 'Ines Varga'],
      ['b@tern.test', 'gone', true, 'Ines Varga'],
    ])
    expect([
      (await changeEntries({ ids })).status,
      (await changeEntries({ ids: ['x'], note: 'y' })).status,
      (await changeEntries({ ids, expires: 'soon' })).status,
      (await changeEntries({ ids, note: 'y' }, as.worker)).status,
    ]).toEqual([422, 409, 422, 403])
  })
  it('does not delete a list that a rule still asks', async () => {
    const list = (await as.administrator('GET', '/api/lists/authorities')).body
    const answer = await as.administrator('DELETE', `/api/lists/authorities?version=${list.version}`)
    expect([answer.status, answer.body.detail]).toEqual([422, expect.stringContaining('Fee demands')])
  })
  it('says which field is wrong', async () => {
    const answer = await as.administrator('POST', '/api/rules', rule('', { when: { all: [{ phrases: [] }] } }))
    expect(answer).toMatchObject({
      status: 422,
      body: {
        fields: { 'name': expect.any(String), 'when.all.0.phrases': expect.stringContaining('at least one word') },
      },
    })
    expect((await as.administrator('POST', '/api/rules', '{')).status).toBe(400)
    expect(
      (
        await as.administrator('POST', '/api/rules', rule('Later', {
          claims: [{ effect: { kind: 'forward', value: 'x@y.test' } }],
        }))
      ).status,
    ).toBe(422)
  })
  it('a phrase set that grows changes every rule that looks for it', async () => {
    const made = await as.administrator('POST', '/api/phrase-sets', {
      name: 'Birds',
      owner: 'organisation',
      phrases: ['wren', { text: 'finch', weight: 2 }],
      minimum: 2,
    })
    expect(made.status).toBe(201)
    await as.administrator('POST', '/api/rules', rule('Birds', { when: { set: made.body.id } }))
    const lane = async (text: string) =>
      (
        await as.administrator('POST', '/api/dry-run', tried({ text }))
      ).body.decision.lane
    expect([await lane('a wren'), await lane('a finch'), await lane('a wren and a robin')]).toEqual([
      'inbox',
      'spam',
      'inbox',
    ])
    const [set] = (await as.administrator('GET', '/api/phrase-sets')).body.items.filter(
      (s: { id: string }) => s.id === made.body.id,
    )
    expect(set.rules).toEqual(['Birds'])
    expect(
      (
        await as.worker('PUT', `/api/phrase-sets/${made.body.id}`, {
          name: 'Birds',
          phrases: ['x'],
          version: set.version,
        })
      ).status,
    ).toBe(403)
    expect(
      (
        await as.administrator('PUT', `/api/phrase-sets/${made.body.id}`, {
          name: 'Birds',
          phrases: [...set.phrases, 'robin'],
          minimum: 2,
          version: set.version,
        })
      ).status,
    ).toBe(200)
    expect(
      (
        await as.administrator('PUT', `/api/phrase-sets/${made.body.id}`, {
          name: 'Birds',
          phrases: ['x'],
          version: set.version,
        })
      ).status,
    ).toBe(409)
    expect(await lane('a wren and a robin')).toBe('spam')
  })
  it('a confirmation to erase lapses when the rule becomes another', async () => {
    const gone = rule('Gone', {
      when: { phrases: ['moth'] },
      claims: [{ stop: { to: 'erase', confirmed: true } }],
    })
    const made = (await as.administrator('POST', '/api/rules', gone)).body
    const lane = async () =>
      (
        await as.administrator('POST', '/api/dry-run', tried({ subject: 'moth', text: '' }))
      ).body.decision.lane
    expect(await lane()).toBe('discarded')
    const wider = (
      await as.administrator('PUT', `/api/rules/${made.id}`, {
        ...gone,
        when: { phrases: ['moth', 'bee'] },
        version: made.version,
      })
    ).body
    expect([await lane(), wider.claims]).toEqual(['bin', [{ stop: { to: 'erase' } }]])
  })
  it('the policy that is handed out is one that every door takes', async () => {
    for (const who of ROLES)
      expect([who, readPolicy((await as[who]('GET', '/api/policy')).body)]).toEqual([
        who,
        { policy: expect.objectContaining({ format: 'sober-gate-policy' }) },
      ])
  })
  it('every change is a version, and the ruling says which one made it', async () => {
    const before = (await as.administrator('GET', '/api/policy')).body.version
    await as.administrator('POST', '/api/rules', rule('Newts', { when: { phrases: ['newt'] } }))
    const decision = (
      await as.administrator('POST', '/api/dry-run', tried({ subject: 'a newt', text: '' }))
    ).body.decision
    expect([decision.policyVersion, decision.lane]).toEqual([before + 1, 'spam'])
    expect((await as.administrator('GET', '/api/copies/count?words=newt')).body).toEqual({ total: 0, more: false })
  })
  it('what is in force after all these changes is what a fresh start would load', async () => {
    const entries = ({ policy, table, sizes }: CompiledOnThread) => {
      const all = new EntryTable(table)
      return { policy, sizes, entries: Array.from({ length: table.count }, (_, i) => [all.listOf(i), all.entry(i)]) }
    }
    const [followed, fresh] = [
      await compile({
        earlier: { version: begun.policy.version, table: begun.table, lists: begun.policy.lists.map(l => l.id) },
      }),
      await compile({ earlier: null }),
    ]
    expect(fresh.policy.version).toBeGreaterThan(begun.policy.version + 20)
    expect(entries(followed)).toEqual(entries(fresh))
  })
  it('pages through everything once, in order', async () => {
    const seen: number[] = []
    for (let cursor = ''; ;) {
      const page = (await as.administrator('GET', `/api/copies?limit=7${cursor && `&cursor=${cursor}`}`)).body
      seen.push(...page.items.map((i: { id: number }) => i.id))
      if (!page.next) {
        const { total } = (await as.administrator('GET', '/api/copies/count')).body
        expect([seen.length, new Set(seen).size]).toEqual([total, total])
        break
      }
      cursor = page.next
    }
  })
  it('shown HTML runs nothing and fetches nothing', async () => {
    const html =
      '<p onclick="x()">kestrel</p><script>x()</script><img src="http://evil.test/a.png"><a href="javascript:x()">l</a><p '
      + 'style="background:url(http://evil.test/b)">b</p><style>@import "http://evil.test/c"</style><form '
      + 'action="http://evil.test"><input></form>'
    await smtp(
      gate.smtpPort,
      handOver(
        'x@elsewhere.example',
        [addressOf('worker')],
        plainMessage({ subject: 'kestrel' }).replace('\n\nA text', `\nContent-Type: text/html\n\n${html}`),
      ),
    )
    const [copy] = (await as.worker('GET', '/api/copies?words=kestrel')).body.items
    const shown = (await as.worker('GET', `/api/copies/${copy.id}`)).body.html
    expect(shown).toContain('kestrel')
    expect(shown).not.toMatch(/script|onclick|img|evil\.test|javascript|<form|<input/)
  })
})
