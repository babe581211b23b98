/** Milliseconds of one run of `what`, the best of several rounds: what disturbs a machine only ever adds. */
export function best(what: () => void, rounds = 7): number {
  let least = Infinity
  for (let i = 0; i < rounds; i++) {
    const start = performance.now()
    what()
    least = Math.min(least, performance.now() - start)
  }
  return least
}

/** The same for what is asynchronous. */
export async function bestAsync(what: () => Promise<void>, rounds = 5): Promise<number> {
  let least = Infinity
  for (let i = 0; i < rounds; i++) {
    const start = performance.now()
    await what()
    least = Math.min(least, performance.now() - start)
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
