// npm run bench [-- --json]: figures as ratios to a peer in the same run; results are written up in docs/benchmarks.md.
import { execFileSync } from 'node:child_process'
import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import PostalMime from 'postal-mime'
import { decide, EntryTable, IndexedPolicy, parseMessage, type Message } from '#core'
import { PhraseIndex, viewOf, ViewBuffer } from '#core/text'
import { generate, Random } from '../demo'
import { TRUST } from '../demo/world'
import { best, bestAsync, Figures } from './measure'
import { phrases, policyOf } from './policies'

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

function decideAll(policy: IndexedPolicy, all: readonly Message[]): number {
  return best(() => {
    for (const m of fresh(all)) decide(m, RECIPIENT, policy, { now: NOW })
  }, 9)
}

async function deciding(all: readonly Message[]): Promise<void> {
  const policy = IndexedPolicy.build(policyOf({ entries: 10_000, rules: 500, phrases: 5_000 }))
  decideAll(policy, all)
  const parsing = await bestAsync(async () => {
    for (const m of raw) await PostalMime.parse(m.bytes)
  })
  const took = decideAll(policy, all)
  const views = best(() => {
    for (const m of all) for (const s of m.content.segments) viewOf(s.text, 'plain', buffer)
  }, 9)
  figures.add('deciding, to postal-mime’s parsing', took / parsing, 'ratio', 'at most 0.1', took / parsing <= 0.1)
  figures.add('of it the views', views / parsing, 'ratio', '', null)
  figures.add('deciding one message', took / all.length * 1000, 'µs', '', null)
  figures.add('postal-mime, one message', parsing / all.length * 1000, 'µs', '', null)
}

function growth(all: readonly Message[]): void {
  const at = (size: { entries?: number, rules?: number, phrases?: number }) => {
    const policy = IndexedPolicy.build(policyOf({ entries: size.entries ?? 1000, rules: size.rules ?? 100, phrases: size.phrases ?? 1000 }))
    decideAll(policy, all)
    return decideAll(policy, all)
  }
  const entries = at({ entries: 1_000_000 }) / at({ entries: 10 })
  figures.add('growth, entries 10 to 1,000,000', entries, 'times', 'none within noise (1.25)', entries <= 1.25)
  const phrasesGrow = at({ phrases: 50_000, rules: 100 }) / at({ phrases: 100, rules: 100 })
  figures.add('growth, phrases 100 to 50,000', phrasesGrow, 'times', 'at most 2', phrasesGrow <= 2)
  const rules = at({ rules: 10_000, phrases: 10_000 }) / at({ rules: 10, phrases: 10 })
  figures.add('growth, rules 10 to 10,000', rules, 'times', 'at most 2', rules <= 2)
  const policy = IndexedPolicy.build(policyOf({ entries: 1000, rules: 100, phrases: 1000 }))
  const long = (n: number): Message => ({ ...all[0]!, content: { ...all[0]!.content, segments: [{ place: 'own', text: 'The tide table for the outer channel is corrected. '.repeat(n) }] } })
  const [small, large] = [[long(2_000)], [long(20_000)]]
  decideAll(policy, small)
  const length = decideAll(policy, large) / decideAll(policy, small) / 10
  figures.add('growth, length tenfold, over tenfold', length, 'times', 'linear (1.2)', length <= 1.2)
}

function scanning(all: readonly Message[]): void {
  const folder = mkdtempSync(join(tmpdir(), 'bench-'))
  writeFileSync(join(folder, 'empty'), 'x')
  const mail = all.flatMap(m => m.content.segments.map(s => s.text)).join('\n')
  // The peer spends a while on making its automaton as the text comes: in 4 MB that weighs, in 20 MB hardly.
  for (const { count, times, size } of [{ count: 1000, times: 60, size: '4 MB' }, { count: 1000, times: 300, size: '20 MB' }, { count: 10_000, times: 60, size: '4 MB' }]) {
    const text = mail.repeat(times)
    writeFileSync(join(folder, 'text'), text)
    const wanted = phrases(new Random(count), count)
    writeFileSync(join(folder, 'phrases'), `${wanted.join('\n')}\n`)
    const index = new PhraseIndex(wanted)
    let hits = 0
    const ours = best(() => {
      const view = viewOf(text, 'plain', buffer)
      index.scan(view.units, view.length, () => hits++)
    }, 9)
    if (hits < 0) throw new Error('nothing was scanned')
    const grep = (file: string) => best(() => {
      try {
        execFileSync('rg', ['-F', '-i', '-c', '-j1', '--no-mmap', '-f', join(folder, 'phrases'), file], { stdio: 'ignore' })
      }
      catch {
        // rg ends with 1 where nothing is found
      }
    }, 9)
    const peer = grep(join(folder, 'text')) - grep(join(folder, 'empty'))
    figures.add(`phrase scanning, ${count} phrases in ${size}, to ripgrep -F -i (start-up taken off)`, ours / peer, 'ratio', 'at most 1', ours / peer <= 1)
    if (count === 1000 && times === 60) {
      const some = text.slice(0, 200_000)
      const expressions = wanted.map(p => new RegExp(p, 'i'))
      const loop = best(() => {
        for (const e of expressions) e.test(some)
      }, 3) * (text.length / some.length)
      figures.add('phrase scanning, 1,000 phrases, loop of RegExp to ours', loop / ours, 'times', 'at least 10', loop / ours >= 10)
    }
  }
}

function compiling(): void {
  function* rows() {
    for (let i = 0; i < 1_000_000; i++) yield { list: i % 10, entry: { id: `00000000-0000-4000-8000-${String(i).padStart(12, '0')}`, kind: i % 2 ? 'address' as const : 'domain' as const, value: i % 2 ? `person${i}@quay${i % 5000}.test` : `quay${i}.test` } }
  }
  const start = performance.now()
  const table = EntryTable.build(rows())
  const seconds = (performance.now() - start) / 1000
  const bytes = Object.values(table.data).reduce<number>((sum, v) => sum + (typeof v === 'object' ? v.byteLength : 0), 0)
  figures.add('1,000,000 entries compiled', seconds, 's', 'under 5', seconds < 5)
  figures.add('their memory', bytes / 1e6, 'MB', 'under 400', bytes < 400e6)
}

const all = await messages()
await deciding(all)
scanning(all)
compiling()
growth(all)
if (process.argv.includes('--json')) {
  process.stdout.write(`${JSON.stringify({ figures: figures.list })}\n`)
}
else {
  for (const f of figures.list) process.stdout.write(`${f.holds === null ? '     ' : f.holds ? 'holds' : 'MISSED'}  ${f.name}: ${f.value} ${f.unit}${f.goal ? ` (${f.goal})` : ''}\n`)
}
