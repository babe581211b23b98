import { adminCookie, install } from './installation'
import type { Figures } from './measure'

const COPIES = Number(process.env.BENCH_COPIES ?? 100_000)
const TIMES = 20

const rule = (words: string) => ({
  type: 'put',
  kind: 'rule',
  value: {
    name: words,
    owner: 'organisation',
    state: 'enabled',
    when: { phrases: [words] },
    except: [],
    claims: [{ stop: { to: 'spam' } }],
  },
})
const entry = (kind: string, value: string) => ({ type: 'put', kind: 'entries', list: 'speculators', entries: [{ kind, value }] })

/** One changed rule or entry each, over an archive: what answers first, and all of it. */
const CHANGES: Record<string, object> = {
  'an address': entry('address', 'news@regatta-society.example'),
  'a domain and below': entry('domainAndSubdomains', 'coastal-authority.example'),
  'a phrase that some mail has': rule('release fee'),
  'a phrase that no mail has': rule('zzyzx quay'),
  'a phrase that most mail has': rule('the'),
  'a pattern': entry('pattern', '*@*.regatta-society.example'),
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
    const timed = async (change: object, whole: boolean, parts = false) => {
      const start = performance.now()
      const response = await fetch(`${gate.url}/api/impact${parts ? '/parts' : ''}`, {
        method: 'POST',
        headers: { cookie, 'content-type': 'application/json' },
        body: JSON.stringify({ changes: [change], ...(parts ? {} : { whole }) }),
      })
      const text = await response.text()
      if (!response.ok) throw new Error(text)
      return performance.now() - start
    }
    const p95 = (took: number[]) => took.sort((a, b) => a - b)[Math.floor(took.length * 0.95)]!
    for (const [name, change] of Object.entries(CHANGES)) {
      const first: number[] = []
      for (let i = 0; i < TIMES; i++) first.push(await timed(change, false))
      const cold = first[0]!
      const value = p95(first.slice(1))
      process.stderr.write(`${name}: first ${value.toFixed(0)} ms (${cold.toFixed(0)} the first time)\n`)
      figures.add(`first impact of ${name}, p95`, value, 'ms', 'under 500', value < 500)
      const indexed = name === 'an address' || name === 'a domain and below'
      const whole = p95([await timed(change, true), await timed(change, true)]) / 1000
      process.stderr.write(`${name}: whole ${whole.toFixed(1)} s\n`)
      figures.add(`the whole impact of ${name}`, whole, 's', indexed ? 'under 3' : 'under 15', whole < (indexed ? 3 : 15))
    }
    const [first, parts]: number[][] = [[], []]
    for (let i = 0; i < TIMES; i++) {
      first!.push(await timed(TEN, false))
      parts!.push(await timed(TEN, false, true))
    }
    const ratio = p95(parts!.slice(1)) / p95(first!.slice(1))
    process.stderr.write(`the parts of a rule of ten phrases, to its first impact: ${ratio.toFixed(1)}\n`)
    figures.add('the parts of a rule of ten phrases, to its first impact', ratio, 'times', 'under 2', ratio < 2)
  }
  finally {
    await gate.stop()
  }
}
