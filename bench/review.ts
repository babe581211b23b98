import { adminCookie, install } from './installation'
import type { Figures } from './measure'

const HELD = Number(process.env.BENCH_HELD ?? 100_000)
const TIMES = 60
const MISTAKES = 20

/** A review of a hundred thousand held copies: the next one, the groups, the order that a job keeps, and the fixes of mistakes. */
export async function review(figures: Figures): Promise<void> {
  const gate = await install(3000)
  try {
    const cookie = await adminCookie(gate.url)
    const { database } = gate
    // The same held mail for many more recipients than there are: what is asked of the indexes is the same.
    await database.query(`
      with held as (select *, row_number() over (order by id) n, count(*) over () of from copies where lane = 'quarantine'),
      more as (
        insert into copies (message_id, attempt_id, recipient, person_id, lane, quarantine_id, lane_since, received_at, decision_id,
          sender_address, sender_domain, sender_name, subject, reason)
        select message_id, attempt_id, 'r' || g || '.' || recipient, person_id, lane, 'general', lane_since - make_interval(secs => g),
          received_at - make_interval(secs => g), decision_id, sender_address, sender_domain, sender_name, subject, reason
        from held, generate_series(1, ${HELD} / (select count(*) from copies where lane = 'quarantine')) g returning id, decision_id)
      insert into decision_claims (decision_id, copy_id, clause_kind, clause_id, list_id, entry_id, outcome)
      select m.decision_id, m.id, c.clause_kind, c.clause_id, c.list_id, c.entry_id, c.outcome
      from more m join (select distinct on (decision_id, clause_id, outcome) * from decision_claims) c on c.decision_id = m.decision_id`)
    await database.query('analyze')
    const count = async (where: string) => Number((await database.query(`select count(*) n from copies where ${where}`)).rows[0].n)
    const began = performance.now()
    figures.add('held copies', await count('lane = \'quarantine\''), 'copies', '', null)
    const waiting = `ranked_at is null and lane in ('spam', 'quarantine', 'lowPriority', 'bin')`
    while (await count(waiting)) await new Promise(r => setTimeout(r, 500))
    figures.add('put in order by the job, all of them', (performance.now() - began) / 1000, 's', '', null)
    const ask = async (path: string, body?: object) => {
      const start = performance.now()
      const response = await fetch(`${gate.url}${path}`, {
        method: body ? 'POST' : 'GET',
        headers: { cookie, ...(body ? { 'content-type': 'application/json' } : {}) },
        body: body && JSON.stringify(body),
      })
      const text = await response.text()
      if (!response.ok) throw new Error(`${path}: ${text}`)
      return { took: performance.now() - start, body: JSON.parse(text) }
    }
    const p95 = (took: number[]) => took.sort((a, b) => a - b)[Math.floor(took.length * 0.95)]!
    const grouped: number[] = []
    for (const by of ['clause', 'sender', 'subject'])
      for (let i = 0; i < TIMES / 10; i++) grouped.push((await ask(`/api/review?by=${by}`)).took)
    figures.add('its groups, each grouping, p95', p95(grouped), 'ms', '', null)
    const { body: { groups } } = await ask('/api/review?by=clause')
    const next: number[] = []
    const pages: number[] = []
    let cursor = ''
    for (let i = 0; i < TIMES; i++) {
      const page = await ask(
        `/api/review/items?by=clause&limit=50&key=${encodeURIComponent(groups[1].key)}${cursor && `&cursor=${cursor}`}`,
      )
      cursor = page.body.next ?? ''
      const opened = await ask(`/api/copies/${page.body.items[0].id}`)
      pages.push(page.took)
      next.push(opened.took)
    }
    figures.add('a page of 50 items, p95', p95(pages), 'ms', 'under 100', p95(pages) < 100)
    const slowest = p95(next)
    figures.add('the next item with all of it, p95', slowest, 'ms', 'under 100', slowest < 100)
    const { body: { items } } = await ask(`/api/review/items?by=clause&limit=${MISTAKES}&key=${encodeURIComponent(groups[1].key)}`)
    const ids = items.map((i: { id: number }) => i.id)
    const { first, all } = await follow(`${gate.url}/api/fixes?follow=yes`, cookie, { ids })
    figures.add(`fixes of ${MISTAKES} mistakes, so far`, first, 's', 'under 1', first < 1)
    figures.add('all of them, over all mail', all, 's', 'under 10', all < 10)
  }
  finally {
    await gate.stop()
  }
}

async function follow(url: string, cookie: string, body: object): Promise<{ first: number, all: number }> {
  const start = performance.now()
  const response = await fetch(url, { method: 'POST', headers: { cookie, 'content-type': 'application/json' }, body: JSON.stringify(body) })
  if (!response.ok) throw new Error(await response.text())
  let first = 0
  for await (const chunk of response.body as unknown as AsyncIterable<Uint8Array>)
    if (!first && String(Buffer.from(chunk)).includes('data:')) first = (performance.now() - start) / 1000
  return { first, all: (performance.now() - start) / 1000 }
}
