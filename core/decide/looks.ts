import type { Look } from '../policy'
import { wordStarts, wordsBetween, type Span } from '../text'
import { isAt, type TextSpan } from './segments'
import type { Evidence, Lost } from './types'

/** Where one phrase stands: in which stretch, and where in it. */
export interface PhraseHit extends Span {
  segment: number
}

/** Hits of a look's phrases and of their near phrases, each list in the order of the message. */
export interface LookHits {
  items: PhraseHit[][]
  /** By item, then by near phrase. */
  near: PhraseHit[][][]
}

/** Hits of one key that are kept; a look with company keeps more, so that padding hides no pair. */
export function mostHits(look: Look): number {
  return look.items.some(i => i.near) ? 20_000 : 20
}

/** True if hits in that stretch are of use to the look: they count, or are told as hidden. */
export function sees(look: Pick<Look, 'places' | 'exempts'>, textSpan: TextSpan): boolean {
  return isAt(look.places, textSpan) || (look.exempts && textSpan.place === 'hidden')
}

/** Hits of several keys of one phrase, in the order of the message and each once. */
export function inOrder(hits: PhraseHit[]): PhraseHit[] {
  const sorted = [...hits].sort((a, b) => a.segment - b.segment || a.start - b.start || a.end - b.end)
  return sorted.filter(
    (h, i) => i === 0 || h.segment !== sorted[i - 1]!.segment || h.start !== sorted[i - 1]!.start || h.end !== sorted[i - 1]!.end,
  )
}

/** What a look found, from its hits: with company where that is asked, weighed where there is a minimum. */
export function matchLook(
  look: Look,
  hits: LookHits,
  textSpans: readonly TextSpan[],
): { holds: boolean, lenient: boolean, evidence: Evidence[], lost: Lost[] } {
  const counted: { item: number, hit: PhraseHit }[] = []
  const hidden: { item: number, hit: PhraseHit }[] = []
  let weight = 0
  look.items.forEach((item, i) => {
    const seen = hits.items[i]!.filter(h => isAt(look.places, textSpans[h.segment]!))
    const kept = item.near
      ? withCompany({ mains: seen, nearHits: hits.near[i]!, within: item.near.within }, look, textSpans)
      : seen.map(h => [h])
    if (kept.length) weight += item.weight
    for (const pair of kept) for (const hit of pair) counted.push({ item: i, hit })
    if (look.exempts)
      for (const hit of hits.items[i]!)
        if (textSpans[hit.segment]!.place === 'hidden' && !isAt(look.places, textSpans[hit.segment]!)) hidden.push({ item: i, hit })
  })
  const holds = look.minimum === null ? counted.length > 0 : weight >= look.minimum && weight > 0
  const lost: Lost[] = !holds && hidden.length ? [{ why: 'hiddenText', evidence: evidenceOf(hidden, look, textSpans) }] : []
  return { holds, lenient: holds || hidden.length > 0, evidence: evidenceOf(holds ? counted : hidden, look, textSpans), lost }
}

interface Company {
  mains: PhraseHit[]
  nearHits: PhraseHit[][]
  /** Words between the two; null for anywhere. */
  within: number | null
}

function withCompany({ mains, nearHits, within }: Company, look: Look, textSpans: readonly TextSpan[]): PhraseHit[][] {
  const others = inOrder(nearHits.flat().filter(h => isAt(look.places, textSpans[h.segment]!)))
  if (!others.length) return []
  if (within === null) return mains.map(m => [m, others[0]!])
  // By where they end too: the nearest on either side is found by halving, so that padding with both costs no square.
  const byEnd = [...others].sort((a, b) => a.segment - b.segment || a.end - b.end || a.start - b.start)
  const starts = new Map<number, Uint32Array>()
  const out: PhraseHit[][] = []
  for (const main of mains) {
    let words = starts.get(main.segment)
    if (!words) starts.set(main.segment, (words = wordStarts(textSpans[main.segment]!.text)))
    const before = byEnd[firstWhere(byEnd, o => o.segment > main.segment || (o.segment === main.segment && o.end > main.start)) - 1]
    const after = others[firstWhere(others, o => o.segment > main.segment || (o.segment === main.segment && o.start >= main.end))]
    const near = [before, after].find(o => o !== undefined && o.segment === main.segment && wordsBetween(words, main, o) <= within)
    if (near) out.push([main, near])
  }
  return out
}

/** The first place from which on a condition holds; the length where it holds nowhere. */
function firstWhere<T>(items: readonly T[], holds: (item: T) => boolean): number {
  let low = 0
  let high = items.length
  while (low < high) {
    const middle = (low + high) >>> 1
    if (holds(items[middle]!)) high = middle
    else low = middle + 1
  }
  return low
}

const MAX_EVIDENCE = 40

function evidenceOf(found: { item: number, hit: PhraseHit }[], look: Look, textSpans: readonly TextSpan[]): Evidence[] {
  const out: Evidence[] = []
  const seen = new Set<string>()
  for (const { item, hit } of [...found].sort(
    (a, b) => a.hit.segment - b.hit.segment || a.hit.start - b.hit.start || a.hit.end - b.hit.end || a.item - b.item,
  )) {
    const key = `${hit.segment} ${hit.start} ${hit.end} ${item}`
    if (seen.has(key)) continue
    seen.add(key)
    const { place, label } = textSpans[hit.segment]!
    out.push({
      kind: 'phrase',
      phrase: look.items[item]!.text,
      place,
      ...(label === undefined ? {} : { label }),
      segment: hit.segment,
      start: hit.start,
      end: hit.end,
    })
    if (out.length === MAX_EVIDENCE) break
  }
  return out
}
