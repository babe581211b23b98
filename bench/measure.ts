/**
 * Milliseconds of one run of each, the best of several rounds: what disturbs a machine only ever adds. They take turns, so
 * that a machine that is slow for a while is slow for all of them.
 */
export async function bestOfEach(runs: readonly (() => unknown)[], rounds = 9): Promise<number[]> {
  const least = runs.map(() => Infinity)
  for (let i = 0; i < rounds; i++) {
    for (const [n, run] of runs.entries()) {
      const start = performance.now()
      await run()
      least[n] = Math.min(least[n]!, performance.now() - start)
    }
  }
  return least
}

export interface Figure {
  name: string
  value: number
  unit: string
  goal: string
  /** Null where a figure has no goal of its own. */
  holds: boolean | null
}

/** Figures as they come in. */
export class Figures {
  readonly list: Figure[] = []

  add(name: string, value: number, unit: string, goal: string, holds: boolean | null): void {
    this.list.push({ name, value: Number(value.toPrecision(3)), unit, goal, holds })
  }
}
