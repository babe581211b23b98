// Not a speed: whether the figures that the product says are true for all of the mail. On a labelled archive with mistakes, each figure
// of fixes, candidates and changes is held against deciding every copy under the whole policy before and after.
import isSame from 'fast-deep-equal'
import pg from 'pg'
import type { PolicyChange } from '#core/change'
import type { Impact } from '#core/simulate'
import { Random } from '../demo'
import { questionsTo } from '../tests/support/questions'
import { figuresOf, recounting, type Recount } from '../tests/support/recounted'
import { adminCookie, install } from './installation'
import type { Figures } from './measure'

const COPIES = Number(process.env.BENCH_FIGURES ?? 20_000)
const [FIXES, CANDIDATES, CHANGES] = (process.env.BENCH_FIGURES_OF ?? '200,100,50').split(',').map(Number) as [number, number, number]

interface Counted {
  changes: PolicyChange[]
  impact: Impact
}

export async function figuresOfAllMail(figures: Figures): Promise<void> {
  const gate = await install(Math.ceil(COPIES / 1.47))
  const pool = new pg.Pool({ connectionString: gate.databaseUrl, max: 3 })
  try {
    const cookie = await adminCookie(gate.url)
    const ask = async <T>(path: string, body: object): Promise<T> => {
      const send = () => fetch(`${gate.url}/api${path}`, {
        method: 'POST',
        headers: { cookie, 'content-type': 'application/json' },
        body: JSON.stringify(body),
      })
      // While copies are recounted the server gives an idle connection up.
      const response = await send().catch(send)
      const text = await response.text()
      if (!response.ok) throw new Error(`${path}: ${text}`)
      return JSON.parse(text) as T
    }
    const random = new Random(28)
    await label(gate.database)
    const mail = await recounting(questionsTo(pool))
    figures.add('copies in the labelled archive', mail.copies.length, 'copies', '', null)
    const differing: string[] = []
    const hold = (what: string, { changes, impact }: Counted) => {
      const of = mail.of(changes)
      if (!of) return
      const { inScope: _, ...own } = figuresOf(impact)
      const { inScope: __, ...recounted } = of
      if (!isSame(own, recounted) || impact.looked !== impact.inScope) differing.push(`${what}: ${JSON.stringify([own, recounted])}`)
    }
    const wrong = mail.copies.filter(({ copy: c, message }) => message && c.movedBy === null
      && (c.judgement === 'wanted' ? ['spam', 'quarantine'].includes(c.lane) : c.judgement === 'unwanted' && c.lane === 'inbox'))
    let held = 0
    while (held < FIXES)
      for (const fix of await ask<Counted[]>('/fixes', { ids: [random.pick(wrong).copy.id] })) {
        hold('fix', fix)
        held++
      }
    figures.add('figures of fixes that differ from a recount', differing.length, `of ${held}`, '0', differing.length === 0)
    let candidates = 0
    while (candidates < CANDIDATES) {
      const { copy } = random.pick(mail.copies.filter(c => c.message && c.copy.senderAddress))
      const { candidates: some } = await ask<{ candidates: Counted[] }>('/suggestions', { ids: [copy.id], then: { to: 'spam' }, owner: 'organisation' })
      for (const one of some) {
        hold('candidate', one)
        candidates++
      }
    }
    figures.add('figures of candidates and fixes that differ', differing.length, `of ${held + candidates}`, '0', differing.length === 0)
    for (const change of changesOf(mail, random)) hold('change', { changes: [change], impact: await ask('/impact', { changes: [change] }) })
    figures.add('figures of all that differ', differing.length, `of ${held + candidates + CHANGES}`, '0', differing.length === 0)
    for (const one of differing.slice(0, 10)) process.stderr.write(`${one}\n`)
  }
  finally {
    await pool.end()
    await gate.stop()
  }
}

// A third is marked, most of it as it lies; a fiftieth lies where it should not.
async function label(database: pg.Pool): Promise<void> {
  await database.query(`
    update copies set judgement_strength = 'said',
      judgement = case when (lane in ('inbox', 'lowPriority')) = (id % 50 <> 7) then 'wanted' else 'unwanted' end
    where lane in ('inbox', 'lowPriority', 'spam', 'quarantine', 'bin') and (id % 3 = 0 or id % 50 = 7)`)
}

/** Changes of phrases, senders and rules. */
function* changesOf({ policy, copies }: Recount, random: Random): Generator<PolicyChange> {
  const rules = policy.rules.filter(r => r.state === 'enabled')
  for (let i = 0; i < CHANGES; i++) {
    const { copy, message } = random.pick(copies.filter(c => c.message && c.message.content.segments.length > 1))
    const words = random.pick(message!.content.segments.slice(1)).text.trim().split(/\s+/)
    const phrase = words.slice(0, random.between(1, 3)).join(' ').slice(0, 80) || 'the'
    if (i % 3 === 0 && rules.length) yield { type: 'put', kind: 'rule', value: { ...random.pick(rules), state: 'disabled' } }
    else if (i % 3 === 1)
      yield { type: 'put', kind: 'entries', list: 'speculators', entries: [{ kind: 'domain', value: copy.senderDomain || 'x.test' }] } as PolicyChange
    else
      yield {
        type: 'put', kind: 'rule',
        value: {
          name: `figures ${i}`,
          owner: 'organisation',
          state: 'enabled',
          when: { phrases: [phrase] },
          except: [],
          claims: [{ stop: { to: 'spam' } }],
        },
      } as unknown as PolicyChange
  }
}
