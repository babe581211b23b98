import { and, desc, eq, isNull, sql } from 'drizzle-orm'
import { makeAddress, readPolicy } from '#core'
import {
  DEMO_CLAUSES,
  DEMO_PASSWORD,
  DEPARTMENTS,
  generate,
  OWN_DOMAIN,
  PEOPLE,
  personId,
  Random,
  refusedAttempts,
  TRUST,
  type DemoPerson,
} from '../../demo'
import { db, longDb, type Tx } from '../db/client'
import { LOCK_NUMBERS } from '../db/lock-numbers'
import { addresses, attempts, copies, demoTruth, memberships, people, proposals, settings, trust } from '../db/schema'
import { receive, recordRefusedAttempt } from '../intake/intake'
import { log } from '../platform/log'
import { markCopies } from '../copies/judgements'
import { moveCopies } from '../copies/moves'
import { propose } from '../requests/proposals'
import { ageMail, requestSome } from './life'
import { hashPassword } from '../users/passwords'
import { addDepartment, findPerson } from '../users/people'
import { differences } from '#core/change'
import { addDomains } from '../users/domains'
import { changeClauses } from '../policy/apply'
import { PUBLIC_PROVIDERS } from '../policy/public-providers'
import { activePolicy, refreshPeople } from '../policy/active-policy'

interface DemoState {
  anchor: string
  messages: number
  done: boolean
}

const BATCH_SIZE = 6

/**
 * Loads the invented harbour office once: its people, its policy, and its mail through the real reading and deciding.
 * Broken off in the middle, it goes on at the next start: messages that are there already are told as repeats.
 * @param anchor day before which the mail lies, as YYYY-MM-DD; today if it is not given
 */
export async function loadDemo(anchor: string | undefined, messages: number): Promise<void> {
  const client = await lockDemo()
  try {
    const [row] = await db().select().from(settings).where(eq(settings.key, 'demo'))
    const there = row?.value as DemoState | undefined
    if (there?.done) return
    const started = Date.now()
    const state = there ?? (await makeWorld(anchor, messages))
    if (!state) return
    await refreshPeople()
    await loadMail(state)
    await markSome()
    await refuseSome(state)
    await proposeSome()
    await ageMail()
    await requestSome()
    await db()
      .update(settings)
      .set({ value: { ...state, done: true } })
      .where(eq(settings.key, 'demo'))
    log.info({ seconds: (Date.now() - started) / 1000, messages: state.messages }, 'the demo is loaded')
  }
  finally {
    await client()
  }
}

// Several processes may start at once; one loads, the others wait and find it done.
async function lockDemo(): Promise<() => Promise<void>> {
  const client = await longDb().$client.connect()
  await client.query('select pg_advisory_lock($1)', [LOCK_NUMBERS.demo])
  return async () => {
    await client.query('select pg_advisory_unlock($1)', [LOCK_NUMBERS.demo])
    client.release()
  }
}

async function makeWorld(anchor: string | undefined, messages: number): Promise<DemoState | null> {
  const day = anchor === undefined || anchor === '' ? new Date() : new Date(`${anchor}T00:00:00Z`)
  if (Number.isNaN(day.getTime())) throw new Error(`The anchor “${anchor}” is not a day. Write it as 2026-11-24.`)
  const state: DemoState = { anchor: day.toISOString().slice(0, 10), messages, done: false }
  const read = readPolicy({
    format: 'sober-gate-policy',
    formatVersion: 3,
    trust: TRUST,
    departments: DEPARTMENTS,
    people: PEOPLE.map(p => ({
      id: personId(p),
      name: p.name,
      addresses: p.mailboxes.map(m => `${m}@${OWN_DOMAIN}`),
      departments: p.department ? [p.department] : [],
    })),
    ...DEMO_CLAUSES,
  })
  if ('problems' in read) throw new Error(`The demo's policy is not valid: ${JSON.stringify(read.problems)}`)
  if ((await db().select({ id: people.id }).from(people).limit(1)).length) {
    log.warn('this installation has people already, so the demo is not loaded into it')
    return null
  }
  const hash = await hashPassword(DEMO_PASSWORD)
  await db().transaction(async (tx) => {
    await addDomains(tx, TRUST.ownDomains)
    for (const relay of TRUST.relays) await tx.insert(trust).values({ kind: 'relay', network: relay.network, authservId: relay.authservId })
    for (const network of TRUST.ownNetworks) await tx.insert(trust).values({ kind: 'ownNetwork', network })
    for (const department of DEPARTMENTS) await addDepartment(tx, department)
    for (const person of PEOPLE) await addDemoPerson(tx, person, hash)
    await changeClauses(null, async ({ policy }) => differences(policy, read.policy), {
      note: { kind: 'text', text: 'The harbour office’s lists and rules' },
      within: tx,
    })
    await tx.insert(settings).values([
      { key: 'demo', value: state },
      { key: 'publicProviders', value: [...PUBLIC_PROVIDERS, ...(TRUST.publicProviders ?? [])] },
      { key: 'upstreamVerdicts', value: TRUST.upstreamVerdicts },
    ])
  })
  return state
}

async function addDemoPerson(tx: Tx, person: DemoPerson, hash: string): Promise<void> {
  const id = personId(person)
  await tx.insert(people).values({ id, name: person.name, role: person.role, passwordHash: hash })
  for (const mailbox of person.mailboxes) {
    const shown = `${mailbox}@${OWN_DOMAIN}`
    await tx.insert(addresses).values({ address: makeAddress(shown).key, personId: id, shown })
  }
  if (person.department) await tx.insert(memberships).values({ personId: id, departmentId: person.department, rank: 0 })
}

async function loadMail(state: DemoState): Promise<void> {
  const mail = generate(new Date(`${state.anchor}T00:00:00Z`), state.messages)
  let loaded = 0
  const take = async () => {
    for (let next = mail.next(); !next.done; next = mail.next()) {
      const { truth, kind, sent } = next.value
      const { bytes, envelope } = await sent()
      const { copies: received } = await receive(bytes, envelope, 'demo')
      await db()
        .insert(demoTruth)
        .values(received.map((r, i) => ({ copyId: r.copyId, wanted: truth[i]!.wanted, kind })))
        .onConflictDoNothing()
      if (++loaded % 400 === 0) log.info({ loaded, of: state.messages }, 'loading the demo')
    }
  }
  await Promise.all(Array.from({ length: BATCH_SIZE }, take))
}

// Once: broken off before the demo was done, it finds its own.
async function refuseSome(state: DemoState): Promise<void> {
  const [there] = await db()
    .select({ id: attempts.id })
    .from(attempts)
    .where(and(eq(attempts.source, 'demo'), isNull(attempts.messageId)))
    .limit(1)
  if (there) return
  for (const { envelope, reply } of refusedAttempts(new Date(`${state.anchor}T00:00:00Z`)))
    await recordRefusedAttempt(envelope, 'demo', reply)
}

/** What an office worker would have changed, and waits for an answer. */
async function proposeSome(): Promise<void> {
  const { policy } = await activePolicy()
  const rule = policy.rules.find(r => r.id === 'fee-demands')
  const held = await db()
    .select({ id: copies.id, personId: copies.personId })
    .from(copies)
    .where(and(eq(copies.lane, 'quarantine'), eq(copies.senderAddress, 'accounts@quayline.example'), eq(copies.judgement, 'wanted')))
    .orderBy(desc(copies.receivedAt), desc(copies.id))
    .limit(20)
  const actor = await findPerson(personId(PEOPLE.find(p => p.mailboxes[0] === 'worker')!))
  const own = held.filter(c => c.personId === actor?.id)
  const [there] = await db().select({ id: proposals.id }).from(proposals).limit(1)
  if (!rule || !actor || !own.length || there) return
  const except = [...rule.except, { sender: { kind: 'address' as const, value: 'accounts@quayline.example' } }]
  await propose(actor, {
    base: policy.version,
    changes: [{ type: 'put', kind: 'rule', value: { ...rule, except } }],
    note: 'Our chandler writes a handling fee into every invoice, and they are due within days. I had to phone for the last one.',
    ids: own.slice(0, 3).map(c => c.id),
  })
}

async function markSome(): Promise<void> {
  const random = new Random(7)
  const rows = await db()
    .select({ id: copies.id, personId: copies.personId, lane: copies.lane, wanted: demoTruth.wanted })
    .from(copies)
    .innerJoin(demoTruth, eq(demoTruth.copyId, copies.id))
    .where(sql`${copies.judgement} is null`)
    .orderBy(copies.receivedAt, copies.recipient)
  const said = new Map<string, { wanted: number[], unwanted: number[], fetched: number[] }>()
  for (const row of rows) {
    const marked = random.chance(0.33)
    const fetched = row.wanted && (row.lane === 'spam' || row.lane === 'bin') && random.chance(0.4)
    if (!row.personId || (!marked && !fetched)) continue
    const own = said.get(row.personId) ?? { wanted: [], unwanted: [], fetched: [] }
    said.set(row.personId, own)
    ;(fetched ? own.fetched : row.wanted ? own.wanted : own.unwanted).push(row.id)
  }
  for (const [personId, own] of said) {
    const actor = (await findPerson(personId))!
    if (own.wanted.length) await markCopies(actor, own.wanted, 'wanted', 'any')
    if (own.unwanted.length) await markCopies(actor, own.unwanted, 'unwanted', 'any')
    if (own.fetched.length) await moveCopies(actor, own.fetched, { lane: 'inbox', versions: 'any' })
  }
}
