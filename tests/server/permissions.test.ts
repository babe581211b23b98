// What one person may do to the others: how much they keep, what they read, and who is told when two change one thing.
import { afterAll, beforeAll, describe, expect, inject, it } from 'vitest'
import { list, rule } from '../support/clauses'
import { type Caller, signIn, undo } from '../support/http'
import { install, type Installation, receive } from '../support/installation'
import { addressOf, OURS, ownerOf } from '../support/office'
import { holdCopies } from '../support/questions'
import { until } from '../support/wait'

const WORKER = addressOf('worker')
const ME = ownerOf('worker')
let gate: Installation
let admin: Caller
let worker: Caller
let colleague: Caller
/** Somebody without a list or a rule. */
let keeper: Caller
const KEEPER = ownerOf('tove.halloran')

beforeAll(async () => {
  gate = await install(inject('clusterFolder'), 'permissions')
  admin = await signIn(gate, 'admin')
  worker = await signIn(gate, WORKER)
  colleague = await signIn(gate, 'emeka.strand')
  keeper = await signIn(gate, 'tove.halloran')
})
afterAll(() => gate.stop())

const versions = () => gate.ask.countVersions()
const statuses = (answers: { status: number }[]) => answers.map(a => a.status).sort()
const deliverTo = (to: string | undefined, subject: string, over: { from?: string, text?: string } = {}) =>
  receive(gate, { subject, to, ...over })
const deliver = (subject: string, over: { from?: string, text?: string } = {}) => deliverTo(undefined, subject, over)
/** A rule and a list of the worker's own. */
const ownRule = (name: string, over: object = {}) => rule(name, { owner: ME, ...over })
const ownList = (name: string, over: object = {}) => list(name, { owner: ME, ...over })

describe('how much one person keeps: everybody’s mail would wait for it', () => {
  const own = (name: string, over: object) => ownList(name, { owner: KEEPER, ...over })
  const lines = (n: number, from = 0) => Array.from({ length: n }, (_, i) => `e${i + from}.test`).join('\n')
  it('5,000 entries in all lists together, and none of what is more', async () => {
    const first = await keeper('POST', '/api/lists', own('First', { entries: lines(3000) }))
    const second = await keeper('POST', '/api/lists', own('Second', { entries: lines(1999) }))
    expect([first.status, second.status]).toEqual([201, 201])
    const add = (id: string, text: string) => keeper('POST', `/api/lists/${id}/entries`, { text })
    const before = await versions()
    const answers = await Promise.all(Array.from({ length: 5 }, (_, i) => add(first.body.id, `last${i}.test`)))
    expect(statuses(answers)).toEqual([201, 422, 422, 422, 422])
    expect(answers.find(a => a.status === 422)!.body.detail).toContain('5,000 entries')
    expect(await versions()).toBe(before + 1)
    expect(await gate.ask.countEntries({ owner: KEEPER })).toBe(5000)
    // What is there already is no more than there was; and an administrator keeps more.
    expect((await add(first.body.id, 'e0.test')).status).toBe(200)
    expect(
      (await admin('POST', '/api/lists', ownList('Large', { owner: 'organisation', entries: lines(6000) }))).status,
    ).toBe(201)
    for (const made of [first, second]) {
      const { version } = (await keeper('GET', `/api/lists/${made.body.id}`)).body
      expect((await keeper('DELETE', `/api/lists/${made.body.id}?version=${version}`)).status).toBe(200)
    }
  })
  it('200 rules, written with a million letters at most', async () => {
    await gate.ask.addRules(KEEPER, 198)
    const answers = await Promise.all(
      ['one', 'two', 'three', 'four'].map(name => keeper('POST', '/api/rules', rule(name, { owner: KEEPER }))),
    )
    expect(statuses(answers)).toEqual([201, 201, 422, 422])
    expect(answers.find(a => a.status === 422)!.body.detail).toContain('200 rules')
    await gate.ask.removeRules(KEEPER)
    const long = (n: number) =>
      ownRule('long', {
        owner: KEEPER,
        when: { phrases: Array.from({ length: n }, (_, i) => `${i} ${'letters '.repeat(30)}`) },
      })
    expect((await keeper('POST', '/api/rules', long(3000))).status).toBe(201)
    const more = await keeper('POST', '/api/rules', { ...long(1500), name: 'longer' })
    expect([more.status, more.body.detail]).toEqual([422, expect.stringContaining('1,000,000 characters')])
    await gate.ask.removeRules(KEEPER)
  })
  it('eight large pastes leave everybody else their answer', async () => {
    const pastes = Array.from({ length: 8 }, (_, i) =>
      admin('POST', '/api/lists', ownList(`Paste ${i}`, { owner: 'organisation', entries: lines(4000, i * 10_000) })),
    )
    const others: { status: number }[] = []
    let done = false
    void Promise.allSettled(pastes).then(() => (done = true))
    for (let i = 0; !done; i++) {
      others.push(
        await worker('GET', '/api/health'),
        await worker('GET', '/api/copies?limit=5'),
        await worker('POST', '/api/lists', ownList(`Small ${i}`)),
      )
      await deliver('beside pastes')
    }
    expect(statuses(await Promise.all(pastes))).toEqual(Array(8).fill(201))
    expect([...new Set(others.map(o => o.status))].sort()).toEqual([200, 201])
    // Each small change went in between, and did not wait for all of the large ones.
    expect((await gate.ask.versionsNoted('List “Small')).first).toBeLessThan((await gate.ask.versionsNoted('List “Paste')).last)
  })
  it('one who asks for everything at once waits for themselves, and nobody else does', async () => {
    const { id } = await deliver('held by another hand')
    const other = await holdCopies(gate.database, { ids: [id] })
    const asked = Array.from({ length: 30 }, () => worker('POST', '/api/copies/judgement', { ids: [id], versions: 'any', value: 'wanted' }))
    const waiting = () => gate.ask.countWaiting('%from "copies"%for update%')
    try {
      await until('four requests wait for the copy', async () => (await waiting()) >= 4)
      // Everybody else has a connection to the database left, and so has mail.
      expect((await colleague('GET', '/api/copies')).status).toBe(200)
      await receive(gate, { subject: 'beside one who asks' })
      expect(await waiting()).toBe(4)
    }
    finally {
      await other.end()
    }
    expect([...new Set(statuses(await Promise.all(asked)))]).toEqual([200])
  })
  it('phrase sets have the limits of the policy’s schema', async () => {
    const set = (phrases: unknown) =>
      worker('POST', '/api/phrase-sets', { name: `Set ${Math.random()}`, owner: ME, phrases }).then(a => a.status)
    expect([
      await set(['x']),
      await set(Array.from({ length: 5001 }, (_, i) => `p${i}`)),
      await set([{ text: 'x', near: { phrases: Array.from({ length: 201 }, (_, i) => `p${i}`) } }]),
      await set([{ text: 'x', near: { phrases: ['y'], within: 2000 } }]),
      await set([{ text: 'x', weight: -1 }]),
      await set([{ text: 'x', other: 1 }]),
      await set([]),
      await set('x'),
    ]).toEqual([201, 422, 422, 422, 422, 422, 422, 422])
  })
})

describe('what is a colleague’s own: others would read it through the back door', () => {
  let mine: { list: string, set: string, rule: string }
  beforeAll(async () => {
    const l = await worker(
      'POST',
      '/api/lists',
      ownList('My wagtails', {
        entries: 'wagtail.test',
        assignment: { side: 'block', state: 'enabled', stop: { to: 'bin' } },
      }),
    )
    const s = await worker('POST', '/api/phrase-sets', { name: 'My dunnocks', owner: ME, phrases: ['dunnock'] })
    const r = await worker(
      'POST',
      '/api/rules',
      ownRule('My secret dunnocks', {
        when: { set: s.body.id },
        claims: [{ stop: { to: 'spam' } }, { effect: { kind: 'tag', value: 'nest' } }],
      }),
    )
    mine = { list: l.body.id, set: s.body.id, rule: r.body.id }
  })
  it('is not read by its number', async () => {
    for (const who of [admin, colleague])
      for (const path of [
        `/api/lists/${mine.list}`,
        `/api/rules/${mine.rule}`,
        `/api/copies?touchedBy=${mine.rule}`,
        `/api/copies/count?touchedBy=${mine.list}`,
      ])
        expect([path, (await who('GET', path)).status]).toEqual([path, 404])
    expect((await worker('GET', `/api/copies?touchedBy=${mine.rule}`)).status).toBe(200)
  })
  it('is not used by its number, and not even said to be there', async () => {
    const there = 'does not exist'
    for (const [who, owner] of [
      [admin, 'organisation'],
      [colleague, ownerOf('emeka.strand')],
    ] as const) {
      const before = await versions()
      const asked = [
        await who('POST', '/api/rules', ownRule('Borrowed list', { owner, when: { senderOn: mine.list } })),
        await who(
          'POST',
          '/api/rules',
          ownRule('Borrowed set', { owner, when: { phrases: ['x'] }, except: [{ set: mine.set }] }),
        ),
        await who('POST', '/api/rules', ownRule('Nested', { owner, when: { all: [{ any: [{ set: mine.set }] }] } })),
      ]
      expect(asked.map(a => a.status)).toEqual([422, 422, 422])
      const missing = await who('POST', '/api/rules', ownRule('Nowhere', { owner, when: { senderOn: 'nowhere' } }))
      expect(asked[0]!.body.detail).toBe(missing.body.detail.replace('nowhere', mine.list))
      expect(asked.every(a => a.body.detail.includes(there))).toBe(true)
      expect(
        (
          await who('POST', `/api/lists/${mine.list}/assignments`, {
            owner,
            assignment: { side: 'block', state: 'enabled', stop: { to: 'spam' } },
          })
        ).status,
      ).toBe(404)
      expect(await versions()).toBe(before)
    }
    expect((await worker('POST', '/api/rules', ownRule('Own use', { when: { senderOn: mine.list } }))).status).toBe(201)
  })
  it('shows in reasons, in Try and in the ledger as a colleague’s rule, without its words', async () => {
    const byRule = await deliver('a small brown bird', { text: 'a dunnock sings' })
    const byList = await deliver('a long tail', { from: 'x@wagtail.test' })
    const tried = { recipient: WORKER, from: 'x@wagtail.test', subject: 's', text: 'dunnock' }
    const said = [
      await admin('GET', `/api/copies/${byRule.id}`),
      await admin('GET', `/api/copies/${byList.id}`),
      await admin('GET', `/api/copies?recipient=${WORKER}&limit=5`),
      await admin('POST', '/api/dry-run', tried),
      await admin('GET', '/api/policy'),
      await admin('GET', '/api/rules'),
      await admin('GET', '/api/lists'),
      await admin('GET', '/api/directory'),
    ]
    for (const [i, answer] of said.entries()) {
      expect([i, answer.status]).toEqual([i, 200])
      // The message may say it; what is told of the rule may not.
      const { facts: _, html: __, ...result } = answer.body as { facts?: unknown, html?: unknown }
      expect([i, /secret|My wagtails|My dunnocks|dunnock/.exec(JSON.stringify(result))?.[0]]).toEqual([i, undefined])
    }
    expect([said[0]!.body.sentence, said[1]!.body.sentence, said[3]!.body.sentence]).toEqual([
      'Moved to Spam because of a colleague’s rule.',
      'Moved to Bin because of a colleague’s list.',
      expect.stringMatching(/^Moved to (?:Spam|Bin) because of a colleague’s (?:rule|list)\.$/),
    ])
    expect(said[0]!.body.reasons[0]).toMatchObject({
      clause: { others: true, name: '' },
      evidence: [],
      claim: { stop: { to: 'spam' } },
    })
    expect(said[2]!.body.items.slice(0, 2).map((c: { reason: string }) => c.reason)).toEqual([
      'a colleague’s list',
      'a colleague’s rule',
    ])
    const own = await worker('GET', `/api/copies/${byRule.id}`)
    expect(own.body.sentence).toContain('My secret dunnocks')
    expect(own.body.reasons[0].evidence[0].phrase).toBe('dunnock')
    expect(
      (await worker('GET', '/api/copies?limit=5')).body.items.some((c: { reason: string }) =>
        c.reason.includes('My secret dunnocks'),
      ),
    ).toBe(true)
  })
  it('its tags and folders are shown and searched on one’s own mail only, and a review names it by no number', async () => {
    const claims = [{ place: { to: 'folder', folder: 'roost' } }]
    await worker('POST', '/api/rules', ownRule('To my folder', { when: { phrases: ['siskin'] }, claims }))
    const tagged = await deliver('a bird with a tag', { text: 'a dunnock sings' })
    const filed = await deliver('a bird in a folder', { text: 'a siskin sings' })
    const seenBy = async (who: Caller) => ({
      lines: (await who('GET', `/api/copies?recipient=${WORKER}&limit=50`)).body.items
        .filter((c: { id: number }) => [tagged.id, filed.id].includes(c.id))
        .flatMap((c: { tags: string[], folder: string | null }) => [...c.tags, c.folder].filter(Boolean)).sort(),
      opened: (await who('GET', `/api/copies/${tagged.id}`)).body.tags,
      labels: Object.values((await who('GET', '/api/copies/labels')).body).flat().filter(m => m === 'nest' || m === 'roost'),
      byTag: (await who('GET', '/api/copies?tag=nest')).body.items.length > 0,
      byFolder: (await who('GET', '/api/copies?folder=roost')).body.items.length > 0,
      byWord: (await who('GET', '/api/copies?words=nest')).body.items.length > 0,
    })
    const all = { lines: ['nest', 'roost'], opened: ['nest'], labels: ['nest', 'roost'], byTag: true, byFolder: true, byWord: true }
    // The rule is theirs for less than two seconds: what others' rules say is kept so long.
    expect(await until('the worker sees the folder', async () => {
      const seen = await seenBy(worker)
      return seen.labels.length === 2 && seen
    })).toEqual(all)
    const none = { lines: [], opened: [], labels: [], byTag: false, byFolder: false, byWord: false }
    expect(await until('the administrator sees nothing of them', async () => {
      const seen = await seenBy(admin)
      return seen.lines.length === 0 && seen
    })).toEqual(none)
    const groups = async (who: Caller): Promise<{ key: string, words: string, copies: number }[]> =>
      (await who('GET', '/api/review?lane=spam&by=clause')).body.groups
    expect((await groups(worker)).map(g => g.key)).toContain(`rule ${mine.rule}`)
    const result = await groups(admin)
    expect(JSON.stringify(result)).not.toContain(mine.rule)
    const theirs = result.find(g => g.words === 'a colleague’s rule')!
    const items = async (key: string) =>
      (await admin('GET', `/api/review/items?lane=spam&by=clause&key=${encodeURIComponent(key)}`)).body.items
    expect([(await items(theirs.key)).length, (await items(`rule ${mine.rule}`)).length]).toEqual([theirs.copies, 0])
  })
  it('whether there is a user or a department of some id is not told to whoever may not know', async () => {
    const answers = async (owner: string) => {
      const made = await worker('POST', '/api/rules', ownRule('For whom', { owner, when: { phrases: ['x'] } }))
      const proposed = await worker('POST', '/api/proposals', {
        base: (await worker('GET', '/api/directory')).body.policy.version,
        changes: [{ type: 'put', kind: 'rule', value: rule('For whom', { owner, when: { phrases: ['x'] } }) }],
      })
      return [made.status, made.body.detail, proposed.status, proposed.body.detail]
    }
    expect(await answers(ownerOf('emeka.strand'))).toEqual(await answers('person:nobody-at-all'))
    expect(await answers('department:ferry')).toEqual(await answers('department:nowhere'))
  })
  it('hits on the organisation’s lists count one’s own mail only', async () => {
    const made = await admin(
      'POST',
      '/api/lists',
      ownList('For all', {
        owner: 'organisation',
        entries: 'brambling.test',
        assignment: { side: 'block', state: 'enabled', stop: { to: 'spam' } },
      }),
    )
    await deliver('mine', { from: 'a@brambling.test' })
    for (const i of [1, 2, 3]) await deliverTo(addressOf('runa.keel'), `theirs ${i}`, { from: 'a@brambling.test' })
    const hits = async (who: Caller) => {
      const { body } = await who('GET', `/api/lists/${made.body.id}`)
      const card = (await who('GET', '/api/lists')).body.items.find((l: { id: string }) => l.id === made.body.id)
      return [body.hits, card.hits, body.entries[0].hits]
    }
    expect([await hits(worker), await hits(colleague), await hits(admin)]).toEqual([
      [1, 1, 1],
      [0, 0, 0],
      [4, 4, 4],
    ])
  })
  it('only an administrator reads which machines are believed', async () => {
    const trust = async (who: Caller) =>
      (await who('GET', '/api/policy')).body.trust as {
        relays: unknown[]
        ownNetworks: unknown[]
        ownDomains: string[]
      }
    const seen = await trust(worker)
    expect([seen.relays, seen.ownNetworks, seen.ownDomains]).toEqual([[], [], [OURS]])
    expect((await trust(admin)).relays.length).toBeGreaterThan(0)
  })
})

describe('at the same time: what the first did would be lost, or half of it stay', () => {
  it('of two notes on one entry, and of two orders of rules, the second is told', async () => {
    const made = (await admin('POST', '/api/lists', ownList('Notes', { owner: 'organisation', entries: 'note.test' })))
      .body
    const { seen, entries } = (await admin('GET', `/api/lists/${made.id}`)).body
    const note = (text: string) =>
      admin('PUT', `/api/lists/${made.id}/entries`, { ids: [entries[0].id], seen, note: text })
    expect(statuses(await Promise.all([note('one'), note('two')]))).toEqual([200, 409])
    const ids = []
    for (const name of ['Order a', 'Order b', 'Order c'])
      ids.push((await worker('POST', '/api/rules', ownRule(name))).body.id as string)
    const { items, version } = (await worker('GET', '/api/rules')).body as {
      items: { id: string, owner: string }[]
      version: number
    }
    const mine = items.filter(r => r.owner === ME).map(r => r.id)
    const order = (by: number) =>
      worker('POST', '/api/rules/order', { owner: ME, ids: [...mine.slice(by), ...mine.slice(0, by)], version })
    expect(statuses(await Promise.all([order(1), order(2)]))).toEqual([200, 409])
    // The order that there is, is no change.
    const before = await versions()
    const now = (await worker('GET', '/api/rules')).body as typeof items & {
      items: { id: string, owner: string }[]
      version: number
    }
    expect(
      (
        await worker('POST', '/api/rules/order', {
          owner: ME,
          ids: now.items.filter(r => r.owner === ME).map(r => r.id),
          version: now.version,
        })
      ).status,
    ).toBe(200)
    expect(await versions()).toBe(before)
  })
  it('a list that is deleted while somebody uses it, is used or is gone, and never half of each', async () => {
    for (let i = 0; i < 6; i++) {
      const made = (await admin('POST', '/api/lists', ownList(`Going ${i}`, { owner: 'organisation', entries: 'x.test' })))
        .body
      const { version } = (await admin('GET', `/api/lists/${made.id}`)).body
      const [gone, bound, named] = await Promise.all([
        admin('DELETE', `/api/lists/${made.id}?version=${version}`),
        worker('POST', `/api/lists/${made.id}/assignments`, {
          owner: ME,
          assignment: { side: 'block', state: 'enabled', stop: { to: 'spam' } },
        }),
        worker('POST', '/api/rules', ownRule(`Names it ${i}`, { when: { senderOn: made.id } })),
      ])
      expect([200, 422]).toContain(gone.status)
      if (gone.status === 200) expect([named.status, [201, 404, 422].includes(bound.status)]).toEqual([422, true])
      else expect(named.status).toBe(201)
      expect(await gate.ask.dangling()).toEqual({ assignments: 0, rules: 0 })
    }
  })
  it('five lists, rules, sets and quarantines of one name are one', async () => {
    const five = (make: () => Promise<{ status: number }>) =>
      Promise.all(Array.from({ length: 5 }, make)).then(statuses)
    expect(await five(() => admin('POST', '/api/lists', ownList('Twins', { owner: 'organisation' })))).toEqual([
      201, 422, 422, 422, 422,
    ])
    expect(await five(() => worker('POST', '/api/rules', ownRule('Twin rules')))).toEqual([201, 422, 422, 422, 422])
    expect(
      await five(() => worker('POST', '/api/phrase-sets', { name: 'Twin sets', owner: ME, phrases: ['x'] })),
    ).toEqual([201, 422, 422, 422, 422])
    expect(await five(() => admin('POST', '/api/quarantines', { name: 'Twin holds' }))).toEqual([
      201, 422, 422, 422, 422,
    ])
  })
  it('removing an entry ten times and judging the same twenty times is one act each', async () => {
    const made = (
      await admin('POST', '/api/lists', ownList('Ten times', { owner: 'organisation', entries: 'a.test\nb.test' }))
    ).body
    const before = await versions()
    const removed = await Promise.all(
      Array.from({ length: 10 }, () => admin('POST', `/api/lists/${made.id}/removals`, { ids: [made.added[0].id] })),
    )
    expect([statuses(removed), removed.map(r => r.body.removed).sort()]).toEqual([
      Array(10).fill(200),
      [...Array(9).fill(0), 1],
    ])
    expect(await versions()).toBe(before + 1)
    expect((await admin('POST', `/api/lists/${made.id}/removals`, { ids: ['never'] })).status).toBe(404)
    const copy = await deliver('judged often')
    const auditEvents = () => gate.ask.countEvents('marked')
    const begun = await auditEvents()
    const marked = await Promise.all(
      Array.from({ length: 20 }, () => worker('POST', '/api/copies/judgement', { ids: [copy.id], versions: 'any', value: 'wanted' })),
    )
    expect([statuses(marked), await auditEvents()]).toEqual([Array(20).fill(200), begun + 1])
    expect(marked.filter(j => j.body.eventId === null && j.body.changed === 0)).toHaveLength(19)
    expect((await worker('POST', '/api/copies/judgement', { ids: [copy.id], versions: 'any', value: null })).body.changed).toBe(1)
    expect((await worker('POST', '/api/copies/judgement', { ids: [copy.id], versions: 'any', value: null })).body.changed).toBe(0)
  })
  it('a judgement whose act was undone never comes back', async () => {
    const copy = await deliver('judged and undone')
    const mark = async (value: string) =>
      (await worker('POST', '/api/copies/judgement', { ids: [copy.id], versions: 'any', value })).body.eventId as number
    const standing = async () => (await gate.ask.copy(copy.id)).judgement
    const [first, second] = [await mark('wanted'), await mark('unwanted')]
    expect((await undo(worker, first)).status).toBe(200)
    expect(await standing()).toBe('unwanted')
    expect((await undo(worker, second)).status).toBe(200)
    expect(await standing()).toBe(null)
    // What was not undone does come back.
    const [third, fourth] = [await mark('wanted'), await mark('unwanted')]
    expect((await undo(worker, fourth)).status).toBe(200)
    expect([third > 0, await standing()]).toEqual([true, 'wanted'])
  })
})

describe('deciding and data: what was agreed would change without a word', () => {
  it('from a quarantine to low priority is a release: another’s stop stands', async () => {
    const hold = await admin(
      'POST',
      '/api/rules',
      ownRule('Hold the crakes', {
        owner: 'organisation',
        when: { phrases: ['crake'] },
        claims: [{ stop: { to: 'quarantine', quarantine: 'general' } }],
      }),
    )
    const held = await deliver('a corn crake', { text: 'crake' })
    const free = await deliver('a water crake', { text: 'crake' })
    expect([held.lane, free.lane]).toEqual(['quarantine', 'quarantine'])
    const { id } = (
      await worker(
        'POST',
        '/api/rules',
        ownRule('Corn away', { when: { phrases: ['corn'] }, claims: [{ stop: { to: 'spam' } }] }),
      )
    ).body
    const move = (copy: { id: number }) => admin('POST', '/api/copies/lane', { ids: [copy.id], versions: 'any', lane: 'lowPriority' })
    const [stopped, sent] = [await move(held), await move(free)]
    expect([stopped.body.notReleased, sent.body.notReleased]).toEqual([
      [expect.objectContaining({ lane: 'spam', why: 'Moved to Spam because of a colleague’s rule.' })],
      [],
    ])
    const at = (copy: { id: number }) => gate.ask.copy(copy.id)
    expect(await at(held)).toMatchObject({ lane: 'spam', movedBy: null })
    expect(await at(free)).toMatchObject({
      lane: 'lowPriority',
      movedBy: 'Ines Varga',
      judgement: 'wanted',
      judgementStrength: 'implied',
    })
    expect((await gate.ask.newestEvent()).kind).toBe('released')
    expect((await undo(admin, sent.body.eventId)).status).toBe(200)
    expect(await at(free)).toMatchObject({ lane: 'quarantine', judgement: null })
    for (const [who, r] of [
      [worker, id],
      [admin, hold.body.id],
    ] as const)
      await who('DELETE', `/api/rules/${r}?version=${(await who('GET', `/api/rules/${r}`)).body.version}`)
  })
  const confirmed = (claims: { stop?: { confirmed?: boolean } }[]) => claims.some(c => c.stop?.confirmed === true)
  const erase = (name: string, over: object) =>
    admin(
      'POST',
      '/api/rules',
      rule(name, { owner: 'organisation', claims: [{ stop: { confirmed: true, to: 'erase' } }], ...over }),
    )
  const current = async (id: string) =>
    (await admin('GET', `/api/rules/${id}`)).body as {
      version: number
      claims: { stop?: { confirmed?: boolean } }[]
      findings: { kind: string }[]
    }
  // The checks run beside: on a busy machine the findings of the version before are told for a while.
  const isShown = (id: string) =>
    until('it is found that nobody confirmed the erasing', async () => (await current(id)).findings.some(f => f.kind === 'not confirmed'))
  it('a confirmed erase stays confirmed however often it is saved unchanged', async () => {
    const when = { phrases: [{ text: 'ptarmigan', near: { within: 3, phrases: ['snow'] } }] }
    const { id } = (await erase('Ptarmigans', { when })).body
    for (let i = 0; i < 3; i++) {
      const now = await current(id)
      expect([i, confirmed(now.claims)]).toEqual([i, true])
      // As a form sends it: its own order of keys, not the database's.
      expect(
        (
          await admin('PUT', `/api/rules/${id}`, {
            ...rule(`Ptarmigans`, {
              owner: 'organisation',
              when,
              claims: [{ stop: { to: 'erase', confirmed: true } }],
            }),
            version: now.version,
          })
        ).status,
      ).toBe(200)
    }
    const now = await current(id)
    await admin('PUT', `/api/rules/${id}`, {
      ...rule('Ptarmigans', {
        owner: 'organisation',
        when: { phrases: ['ptarmigan'] },
        claims: [{ stop: { to: 'erase', confirmed: true } }],
      }),
      version: now.version,
    })
    expect(confirmed((await current(id)).claims)).toBe(false)
    await isShown(id)
  })
  it('it lapses when a phrase set grows or a list is switched on, and its owner is told', async () => {
    const set = (
      await admin('POST', '/api/phrase-sets', {
        name: 'Growing',
        owner: 'organisation',
        phrases: ['gadwall', { text: 'garganey', weight: 2 }],
        minimum: 2,
      })
    ).body.id
    const off = (
      await admin('POST', '/api/lists', ownList('Sleeping', { owner: 'organisation', entries: 'gadwall.test', enabled: false }))
    ).body.id
    const [bySet, byList] = [
      (await erase('By set', { when: { set } })).body.id,
      (await erase('By list', { when: { senderOn: off } })).body.id,
    ]
    const changeSet = async (form: object) => {
      const { version } = (await admin('GET', '/api/phrase-sets')).body.items.find((s: { id: string }) => s.id === set)
      expect((await admin('PUT', `/api/phrase-sets/${set}`, { name: 'Growing', version, ...form })).status).toBe(200)
    }
    await changeSet({ phrases: ['gadwall', { weight: 2, text: 'garganey' }], minimum: 2 })
    await changeSet({ phrases: ['gadwall'], minimum: 3 })
    expect(confirmed((await current(bySet)).claims)).toBe(true)
    await changeSet({ phrases: ['gadwall', 'goosander'], minimum: 3 })
    expect(confirmed((await current(bySet)).claims)).toBe(false)
    await isShown(bySet)
    const { version } = (await admin('GET', `/api/lists/${off}`)).body
    expect(
      (await admin('PUT', `/api/lists/${off}`, { name: 'Sleeping', usualSide: 'block', enabled: true, version })).status,
    ).toBe(200)
    expect(confirmed((await current(byList)).claims)).toBe(false)
    // The mail that they stop is in the bin and not gone.
    expect((await deliver('from the sleeping', { from: 'a@gadwall.test' })).lane).toBe('bin')
  })
  it('what only administrators may do, the server refuses to others', async () => {
    const attempt = (claims: object[]) =>
      worker('POST', '/api/rules', ownRule(`Power ${Math.random()}`, { claims })).then(a => a.status)
    expect([
      await attempt([{ effect: { kind: 'tag', value: 't' } }]),
      await attempt([{ effect: { kind: 'tag', value: 't', inEveryLane: true } }]),
      await attempt([{ effect: { kind: 'header', value: 'X-Seen: yes' } }]),
      await attempt([{ stop: { to: 'refuse' } }]),
      await attempt([{ stop: { to: 'discard' } }]),
      await attempt([{ stop: { to: 'erase' } }]),
    ]).toEqual([201, 403, 403, 403, 403, 201])
    const bound = (to: string) =>
      worker(
        'POST',
        '/api/lists',
        ownList(`Power ${Math.random()}`, { assignment: { side: 'block', state: 'enabled', stop: { to } } }),
      ).then(a => a.status)
    expect([await bound('bin'), await bound('refuse'), await bound('discard')]).toEqual([201, 403, 403])
    const own = (await worker('POST', '/api/rules', ownRule('Grows up'))).body
    expect(
      (
        await worker('PUT', `/api/rules/${own.id}`, {
          ...ownRule('Grows up', { claims: [{ stop: { to: 'refuse' } }] }),
          version: own.version,
        })
      ).status,
    ).toBe(403)
  })
})
