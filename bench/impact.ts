import { adminCookie, install } from './installation'
import type { Figures } from './measure'

const COPIES = Number(process.env.BENCH_COPIES ?? 100_000)
const TIMES = 6

const rule = (words: string, more: object = {}) => ({
  type: 'put',
  kind: 'rule',
  value: {
    name: words,
    owner: 'organisation',
    state: 'enabled',
    when: { phrases: [words], ...more },
    except: [],
    claims: [{ stop: { to: 'spam' } }],
  },
})
const entry = (kind: string, value: string) => ({ type: 'put', kind: 'entries', list: 'speculators', entries: [{ kind, value }] })

/** One changed rule or entry each, over an archive, with the seconds in which all of it is to be counted. */
const CHANGES: Record<string, { change: object, goal: number }> = {
  'an address': { change: entry('address', 'news@regatta-society.example'), goal: 1 },
  'a domain and below': { change: entry('domainAndSubdomains', 'coastal-authority.example'), goal: 1 },
  'a phrase that some mail has': { change: rule('release fee'), goal: 3 },
  'a phrase that no mail has': { change: rule('zzyzx quay'), goal: 0.5 },
  'a phrase that most mail has': { change: rule('the'), goal: 10 },
  'a phrase behind obfuscated spelling': { change: rule('release fee', { view: 'obfuscated' }), goal: 15 },
  'a pattern': { change: entry('pattern', '*@*.regatta-society.example'), goal: 15 },
}

const TEN = {
  type: 'put',
  kind: 'rule',
  value: {
    ...rule('ten').value,
    when: { phrases: ['release fee', 'handling fee', 'invoice', 'newsletter', 'berth', 'gale', 'wheat', 'catalogue', 'ferry', 'school'] },
  },
}

/** Impact at the server over an archive, by the first answer and by the whole. */
export async function impact(figures: Figures): Promise<void> {
  const gate = await install(Math.ceil(COPIES / 1.47))
  try {
    const cookie = await adminCookie(gate.url)
    await gate.database.query('vacuum analyze')
    const { rows } = await gate.database.query<{ count: number }>('select count(*)::int as count from copies')
    figures.add('copies in the archive', rows[0]!.count, 'copies', '', null)
    const ask = (path: string, change: object) =>
      fetch(`${gate.url}${path}`, {
        method: 'POST',
        headers: { cookie, 'content-type': 'application/json' },
        body: JSON.stringify({ changes: [change] }),
      })
    /** Milliseconds until the first figure, and until all of the mail is counted. */
    const timed = async (change: object, path = '/api/impact') => {
      const start = performance.now()
      const response = await ask(`${path}?follow=yes`, change)
      if (!response.ok) throw new Error(await response.text())
      let first = 0
      let text = ''
      for await (const chunk of response.body as unknown as AsyncIterable<Uint8Array>) {
        text += Buffer.from(chunk).toString()
        if (!first && text.includes('data:')) first = performance.now() - start
      }
      const last = JSON.parse(text.trim().split('\n\n').at(-1)!.slice('data: '.length)) as { looked: number, inScope: number }
      if (last.looked !== last.inScope) throw new Error(`not whole: ${last.looked} of ${last.inScope}`)
      return { first, whole: performance.now() - start }
    }
    const p95 = (took: number[]) => took.sort((a, b) => a - b)[Math.min(took.length - 1, Math.floor(took.length * 0.95))]!
    for (const [name, { change, goal }] of Object.entries(CHANGES)) {
      const took: { first: number, whole: number }[] = []
      for (let i = 0; i < TIMES; i++) took.push(await timed(change))
      const [cold, ...warm] = took
      const [first, whole] = [p95(warm.map(t => t.first)), p95(warm.map(t => t.whole)) / 1000]
      process.stderr.write(`${name}: first ${first.toFixed(0)} ms, whole ${whole.toFixed(2)} s `
        + `(the first time ${cold!.first.toFixed(0)} ms, ${(cold!.whole / 1000).toFixed(2)} s)\n`)
      figures.add(`first figure of ${name}, p95`, first, 'ms', 'under 500', first < 500)
      figures.add(`the whole of ${name}, p95`, whole, 's', `under ${goal}`, whole < goal)
      figures.add(`the whole of ${name}, the first time`, cold!.whole / 1000, 's', '', null)
    }
    const [first, parts]: number[][] = [[], []]
    for (let i = 0; i < TIMES; i++) {
      first!.push((await timed(TEN)).whole)
      parts!.push((await timed(TEN, '/api/impact/parts')).whole)
    }
    const ratio = p95(parts!.slice(1)) / p95(first!.slice(1))
    process.stderr.write(`the parts of a rule of ten phrases, to its impact: ${ratio.toFixed(1)}\n`)
    figures.add('the parts of a rule of ten phrases, to its impact', ratio, 'times', 'under 2', ratio < 2)
  }
  finally {
    await gate.stop()
  }
}
