// npm run bench [-- PART … --json]: figures as ratios to a peer in the same run; results are written up in docs/benchmarks.md.
import { execFileSync } from 'node:child_process'
import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import PostalMime from 'postal-mime'
import type { EntryTable, Message } from '#core'
import { decide, buildEntryTable, IndexedPolicy, parseMessage } from '#core'
import { PhraseIndex, scanText, viewOf, ViewBuffer } from '#core/text'
import { generate, Random } from '../demo'
import { TRUST } from '../demo/world'
import { largestBodies } from './bodies'
import { crowd } from './crowd'
import { intake } from './intake'
import { bestOfEach, Figures } from './measure'
import { figuresOfAllMail } from './figures'
import { impact } from './impact'
import { pages } from './pages'
import { large } from './large'
import { phrases, policyOf } from './policies'
import { reading } from './reading'
import { review } from './review'
import { typing } from './typing'
import { verifying } from './verifying'

const figures = new Figures()
const buffer = new ViewBuffer()
const NOW = '2026-11-24T09:00:00.000Z'
const RECIPIENT = 'oskar@saltmere-harbour.example'
const raw = [...generate(new Date('2026-11-24'), 400)]

async function messages(): Promise<Message[]> {
  return Promise.all(raw.map(m => parseMessage(m.bytes, m.envelope, TRUST)))
}

// A decision without the cache that copies of one message share: a fresh object each time.
const fresh = (all: readonly Message[]) => all.map(m => ({ ...m }))

const decideAll = (policy: IndexedPolicy, all: readonly Message[]) => () => {
  for (const m of fresh(all)) decide(m, RECIPIENT, policy, { now: NOW })
}

async function deciding(all: readonly Message[]): Promise<void> {
  const policy = IndexedPolicy.build(policyOf({ entries: 10_000, rules: 500, phrases: 5_000 }))
  const parseAll = async () => {
    for (const m of raw) await PostalMime.parse(m.bytes)
  }
  const viewAll = () => {
    for (const m of all) for (const s of m.content.segments) viewOf(s.text, 'plain', buffer)
  }
  const [took, parsing, views] = (await bestOfEach([decideAll(policy, all), parseAll, viewAll], 30)) as [number, number, number]
  figures.add('deciding, to postal-mime’s parsing', took / parsing, 'ratio', 'at most 0.05', took / parsing <= 0.05)
  figures.add('of it the views', views / parsing, 'ratio', '', null)
  figures.add('deciding one message', (took / all.length) * 1000, 'µs', '', null)
  figures.add('postal-mime, one message', (parsing / all.length) * 1000, 'µs', '', null)
}

async function growth(all: readonly Message[]): Promise<void> {
  const policy = (size: { entries?: number, rules?: number, phrases?: number }) =>
    IndexedPolicy.build(policyOf({ entries: size.entries ?? 1000, rules: size.rules ?? 100, phrases: size.phrases ?? 1000 }))
  const grows = async (large: () => void, small: () => void) => {
    const [more, less] = (await bestOfEach([large, small], 25)) as [number, number]
    return more / less
  }
  const entries = await grows(decideAll(policy({ entries: 1_000_000 }), all), decideAll(policy({ entries: 10 }), all))
  figures.add('growth, entries 10 to 1,000,000', entries, 'times', 'none within noise (1.25)', entries <= 1.25)
  const byPhrases = await grows(decideAll(policy({ phrases: 50_000 }), all), decideAll(policy({ phrases: 10 }), all))
  figures.add('growth, phrases 10 to 50,000', byPhrases, 'times', 'at most 2', byPhrases <= 2)
  const byRules = await grows(
    decideAll(policy({ rules: 10_000, phrases: 10_000 }), all),
    decideAll(policy({ rules: 10, phrases: 10 }), all),
  )
  figures.add('growth, rules 10 to 10,000', byRules, 'times', 'at most 2', byRules <= 2)
  const long = (n: number): Message => ({
    ...all[0]!,
    content: { ...all[0]!.content, segments: [{ place: 'own', text: 'The tide table for the outer channel is corrected. '.repeat(n) }] },
  })
  const length = (await grows(decideAll(policy({}), [long(20_000)]), decideAll(policy({}), [long(2_000)]))) / 10
  figures.add('growth, length tenfold, over tenfold', length, 'times', 'linear (1.2)', length <= 1.2)
}

async function scanning(all: readonly Message[]): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'bench-'))
  writeFileSync(join(folder, 'empty'), 'x')
  const mail = all.flatMap(m => m.content.segments.map(s => s.text)).join('\n')
  // The peer spends a while on making its automaton as the text comes: in 4 MB that weighs, in 20 MB hardly.
  for (const { count, times, size } of [
    { count: 1000, times: 60, size: '4 MB' },
    { count: 1000, times: 300, size: '20 MB' },
    { count: 10_000, times: 60, size: '4 MB' },
  ]) {
    const text = mail.repeat(times)
    writeFileSync(join(folder, 'text'), text)
    const wanted = phrases(new Random(count), count)
    writeFileSync(join(folder, 'phrases'), `${wanted.join('\n')}\n`)
    const index = new PhraseIndex(wanted)
    let hits = 0
    const scan = () => scanText(text, 'plain', index, buffer, () => hits++)
    const grep = (file: string) => () => {
      try {
        execFileSync('rg', ['-F', '-i', '-c', '-j1', '--no-mmap', '-f', join(folder, 'phrases'), join(folder, file)], { stdio: 'ignore' })
      }
      catch {
        // rg ends with 1 where nothing is found
      }
    }
    const some = text.slice(0, 200_000)
    const expressions = count === 1000 && times === 60 ? wanted.map(p => new RegExp(p, 'i')) : []
    const loop = () => {
      for (const e of expressions) e.test(some)
    }
    const [ours, whole, start, loops] = (await bestOfEach([scan, grep('text'), grep('empty'), loop], 15)) as [
      number,
      number,
      number,
      number,
    ]
    const peer = whole - start
    figures.add(
      `phrase scanning, ${count} phrases in ${size}, to ripgrep -F -i (start-up taken off)`,
      ours / peer,
      'ratio',
      'at most 1',
      ours / peer <= 1,
    )
    if (expressions.length) {
      const times = (loops * (text.length / some.length)) / ours
      figures.add('phrase scanning, 1,000 phrases, loop of RegExp to ours', times, 'times', 'at least 10', times >= 10)
    }
  }
}

async function compiling(): Promise<void> {
  function* rows() {
    for (let i = 0; i < 1_000_000; i++)
      yield {
        list: i % 10,
        entry: {
          id: `00000000-0000-4000-8000-${String(i).padStart(12, '0')}`,
          kind: i % 2 ? ('address' as const) : ('domain' as const),
          value: i % 2 ? `person${i}@quay${i % 5000}.test` : `quay${i}.test`,
        },
      }
  }
  let table: EntryTable | null = null
  const [took] = (await bestOfEach([() => (table = buildEntryTable(rows()))], 3)) as [number]
  const seconds = took / 1000
  const bytes = Object.values(table!.data).reduce<number>((sum, v) => sum + (typeof v === 'object' ? v.byteLength : 0), 0)
  figures.add('1,000,000 entries compiled', seconds, 's', 'under 5', seconds < 5)
  figures.add('their memory', bytes / 1e6, 'MB', 'under 400', bytes < 400e6)
}

const all = await messages()
const PARTS: Record<string, () => Promise<void>> = {
  deciding: () => deciding(all),
  scanning: () => scanning(all),
  compiling,
  growth: () => growth(all),
  reading: () => reading(figures),
  verifying: () => verifying(figures),
  large: () => large(figures),
  intake: () => intake(figures),
  pages: () => pages(figures),
  review: () => review(figures),
  impact: () => impact(figures),
  figures: () => figuresOfAllMail(figures),
  crowd: () => crowd(figures),
  bodies: () => largestBodies(figures),
  typing: () => typing(figures),
}
const asked = process.argv.slice(2).filter(a => !a.startsWith('--'))
const unknown = asked.find(a => !(a in PARTS))
if (unknown) throw new Error(`There is no part “${unknown}”; there are ${Object.keys(PARTS).join(', ')}.`)
// A crowd is many at once, for a while, and each route with its largest body.
if (asked.includes('crowd')) asked.push('typing', 'bodies')
for (const [name, part] of Object.entries(PARTS)) if (!asked.length || asked.includes(name)) await part()
if (process.argv.includes('--json')) {
  process.stdout.write(`${JSON.stringify({ figures: figures.list })}\n`)
}
else {
  for (const f of figures.list)
    process.stdout.write(
      `${f.holds === null ? '     ' : f.holds ? 'holds' : 'MISSED'}  ${f.name}: ${f.value} ${f.unit}${f.goal ? ` (${f.goal})` : ''}\n`,
    )
}
