import { adminCookie, install } from './installation'
import type { Figures } from './measure'

const COPIES = Number(process.env.BENCH_COPIES ?? 25_000)
const TIMES = 25

/** What Mail asks for, at the server, over an archive: a page, each filter, words that are common, rare and nowhere. */
export async function pages(figures: Figures): Promise<void> {
  // The demo's messages have some 1.3 recipients.
  const gate = await install(Math.ceil(COPIES / 1.3))
  try {
    const cookie = await adminCookie(gate.url)
    await gate.database.query('analyze')
    const { rows } = await gate.database.query<{ count: number }>('select count(*)::int as count from copies')
    figures.add('copies in the archive', rows[0]!.count, 'copies', '', null)
    const timed = async (path: string) => {
      const start = performance.now()
      const response = await fetch(`${gate.url}${path}`, { headers: { cookie } })
      const text = await response.text()
      if (!response.ok) throw new Error(`${path}: ${text}`)
      return performance.now() - start
    }
    const filters = [
      '',
      'words=release%20fee',
      'words=berth',
      'words=the',
      'words=zebra',
      'lane=spam',
      'lane=quarantine&lane=spam',
      'sender=quayline',
      'judgement=unwanted',
      'judgement=unjudged&words=harbour',
      'recipient=worker%40saltmere-harbour.example',
    ]
    for (const what of ['', '/count']) {
      const worst = { filter: '', took: 0 }
      for (const filter of filters) {
        const took: number[] = []
        for (let i = 0; i < TIMES; i++) took.push(await timed(`/api/copies${what}?${filter}`))
        const p95 = took.sort((a, b) => a - b)[Math.floor(TIMES * 0.95)]!
        process.stderr.write(`${what || 'page'} ${filter || 'everything'}: ${p95.toFixed(0)} ms\n`)
        if (p95 > worst.took) Object.assign(worst, { filter, took: p95 })
      }
      figures.add(
        `Mail, ${what ? 'the count' : 'a page'}, the slowest of ${filters.length} filters (${worst.filter || 'none'}), p95`,
        worst.took,
        'ms',
        what ? '' : 'under 100',
        what ? null : worst.took < 100,
      )
    }
  }
  finally {
    await gate.stop()
  }
}
