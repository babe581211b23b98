import { KEPT_LANES, type KeptLane } from '#core/policy'
import type { ChangingForm, ImpactView } from '~/api/client'

/** To which mail a change applies, as somebody chose. */
export interface Which {
  coming: boolean
  /** Mail that is here; null while nobody chose: then the mail that the change would free is moved: it fixes a mistake. */
  here: boolean | null
  /** Out of which lanes; none for the usual ones. */
  lanes: KeptLane[]
  /** A day, or empty. */
  since: string
}

export function allThatComes(): Which {
  return { coming: true, here: null, lanes: [], since: '' }
}

type Here = Pick<ImpactView, 'here' | 'freed'> | null | undefined

/** The lanes out of which a change would let mail that it had stopped. */
function freedLanes(impact: Here): KeptLane[] {
  return KEPT_LANES.filter(lane => impact?.freed[lane])
}

/** Whether existing mail is moved: as it was chosen, else where some would be freed. */
export function movesHere({ here }: Which, impact: Here): boolean {
  return here ?? freedLanes(impact).length > 0
}

/** What keeps mail away moves what was delivered; what protects brings back what was kept away. */
function lanesFor(protects: boolean): KeptLane[] {
  return protects ? ['spam', 'quarantine', 'bin'] : ['inbox', 'lowPriority']
}

/** Out of which lanes mail is moved: as they were chosen; all out of which some would be freed; the usual ones, or where it is. */
export function lanesOf({ lanes }: Which, protects: boolean, impact: Here): KeptLane[] {
  if (lanes.length) return lanes
  const freed = freedLanes(impact)
  if (freed.length) return freed
  const usual = lanesFor(protects)
  if (!impact || usual.some(lane => impact.here[lane])) return usual
  const others = lanesFor(!protects).filter(lane => impact.here[lane])
  return others.length ? others : usual
}

/** The same as it is sent. */
export function existingOf(which: Which, protects: boolean, impact: Here): ChangingForm['existing'] {
  if (!movesHere(which, impact)) return undefined
  const lanes = lanesOf(which, protects, impact)
  // Since a day fewer may move than were counted.
  const expected = impact && !which.since ? lanes.reduce((sum, lane) => sum + impact.here[lane], 0) : undefined
  return { lanes, ...daysAsked(which.since, ''), ...(expected === undefined ? {} : { expected }) }
}
