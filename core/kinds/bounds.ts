import type { Root } from 'joi'

/** At least, at most, or between; both ends count. */
export interface Bounds {
  atLeast?: number
  atMost?: number
}

export function boundsSchema(Joi: Root, most: number) {
  const end = () => Joi.number().integer().min(0).max(most)
  return Joi.object({ atLeast: end(), atMost: end() }).or('atLeast', 'atMost')
}

export function isWithin(value: number, { atLeast = 0, atMost = Infinity }: Bounds): boolean {
  return value >= atLeast && value <= atMost
}

/** "3 or more". @param show how one number is written */
export function boundsWords({ atLeast, atMost }: Bounds, show: (n: number) => string): string {
  if (atLeast !== undefined && atMost !== undefined) return `${show(atLeast)} to ${show(atMost)}`
  return atLeast !== undefined ? `${show(atLeast)} or more` : `at most ${show(atMost ?? 0)}`
}
