/** What one fix does, copy by copy. */
export interface Effect {
  /** Ids of the mistakes that it corrects. */
  corrects: readonly number[]
  /** What it makes of other copies that may be a mistake. */
  harms: ReadonlyMap<number, number>
}

/** Of two covers that are as good, the one of fewer fixes. */
const EACH = 1e-6
/** Fixes of one cover: what is put in one press is read before. */
const MAX_MEMBERS = 12
/** Fixes with each of which it is begun once. */
const BEGINNINGS = 8

/**
 * The fixes that together correct most mistakes for least harm: those after which there are fewest mistakes, of those that are left and
 * those that they make. Greedy (weighted set cover: Chvátal 1979, A greedy heuristic for the set-covering problem), begun with nothing and
 * with each of the best fixes, and improved as long as one more, one fewer or another one is better.
 * @param effects of the fixes, in the order in which they are offered
 * @param fitsTogether whether two of them can be saved as one
 * @returns their places, none where no fix makes fewer mistakes than it corrects
 */
export function coverOf(effects: readonly Effect[], fitsTogether: (a: number, b: number) => boolean): number[] {
  const mistakes = new Set(effects.flatMap(e => e.corrects)).size
  // What by itself makes as many mistakes as there are is in no cover that is better than none.
  const sums = effects.map(({ harms }) => [...harms.values()].reduce((sum, h) => sum + h, 0))
  const usable = [...effects.keys()].filter(i => sums[i]! < mistakes)
  const alone = usable.map(i => ({ i, worth: effects[i]!.corrects.length - sums[i]! })).sort((a, b) => b.worth - a.worth)
  let best: { members: number[], worth: number } = { members: [], worth: 0 }
  for (const begin of [null, ...alone.slice(0, BEGINNINGS).map(a => a.i)]) {
    const cover = new Cover(effects)
    if (begin !== null) cover.add(begin)
    improve(cover, usable, fitsTogether)
    if (cover.worth > best.worth + EACH / 2) best = { members: [...cover.members], worth: cover.worth }
  }
  return best.members.sort((a, b) => a - b)
}

type Fits = (a: number, b: number) => boolean

function improve(cover: Cover, usable: readonly number[], fitsTogether: Fits): void {
  for (;;) {
    const before = cover.worth
    const one = bestFor(cover, usable, fitsTogether)
    if (one && one.gain > EACH / 2) {
      cover.add(one.i)
      continue
    }
    // One fewer, or another in its place.
    const swapped = [...cover.members].some((out) => {
      cover.remove(out)
      const other = bestFor(cover, usable.filter(i => i !== out), fitsTogether)
      if (cover.worth + Math.max(0, other?.gain ?? 0) > before + EACH / 2) {
        if (other && other.gain > 0) cover.add(other.i)
        return true
      }
      cover.add(out)
      return false
    })
    if (!swapped) return
  }
}

function bestFor(cover: Cover, usable: readonly number[], fitsTogether: Fits): { i: number, gain: number } | null {
  if (cover.members.size >= MAX_MEMBERS) return null
  let best: { i: number, gain: number } | null = null
  for (const i of usable) {
    if (cover.members.has(i) || ![...cover.members].every(m => fitsTogether(m, i))) continue
    const gain = cover.gainOf(i)
    if (!best || gain > best.gain) best = { i, gain }
  }
  return best
}

/** Some of the fixes, with how many of them correct a mistake, or harm a copy. */
class Cover {
  readonly members = new Set<number>()
  /** Mistakes that are corrected, less those that are made. */
  worth = 0
  private readonly corrected = new Map<number, number>()
  private readonly harmed = new Map<number, number>()

  constructor(private readonly effects: readonly Effect[]) {}

  gainOf(i: number): number {
    const { corrects, harms } = this.effects[i]!
    let gain = -EACH
    for (const id of corrects) if (!this.corrected.get(id)) gain++
    for (const [id, harm] of harms) if (!this.harmed.get(id)) gain -= harm
    return gain
  }

  add(i: number): void {
    this.worth += this.gainOf(i)
    this.members.add(i)
    this.count(i, 1)
  }

  remove(i: number): void {
    this.members.delete(i)
    this.count(i, -1)
    this.worth -= this.gainOf(i)
  }

  private count(i: number, by: number): void {
    const { corrects, harms } = this.effects[i]!
    for (const id of corrects) this.corrected.set(id, (this.corrected.get(id) ?? 0) + by)
    for (const id of harms.keys()) this.harmed.set(id, (this.harmed.get(id) ?? 0) + by)
  }
}
