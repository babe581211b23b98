import type { KeptLane } from '#core/policy'
import type { ChangingForm } from '~/api/client'

/** To which mail a change applies, as somebody chose. */
export interface Which {
  coming: boolean
  here: boolean
  /** Out of which lanes; none for the usual ones. */
  lanes: KeptLane[]
  /** A day, or empty. */
  since: string
}

export function allThatComes(): Which {
  return { coming: true, here: false, lanes: [], since: '' }
}

/** What keeps mail away moves what was delivered; what protects brings back what was kept away. */
export function lanesFor(protects: boolean): KeptLane[] {
  return protects ? ['spam', 'quarantine'] : ['inbox', 'lowPriority']
}

/** The same, or where such mail is only kept away, and comes back by the change, out of the lanes in which it lies. */
export function usualLanes(protects: boolean, here: Record<KeptLane, number> | undefined): KeptLane[] {
  const usual = lanesFor(protects)
  if (!here || usual.some(lane => here[lane])) return usual
  const others = lanesFor(!protects).filter(lane => here[lane])
  return others.length ? others : usual
}

/** The same as it is sent. */
export function existingOf({ here, lanes, since }: Which, protects: boolean): ChangingForm['existing'] {
  if (!here) return undefined
  return {
    lanes: lanes.length ? lanes : lanesFor(protects),
    ...daysAsked(since, ''),
  }
}
