import type { LaneChange } from '#core/simulate'
import { counted, numberWords, percentWords, plural } from '#core/wording'
import type { ImpactView } from '~/api/client'

export const copiesWords = (count: number) => counted(count, 'message')

/** How people marked what something matched: of what blocks, the share of unwanted; of all else, both numbers. */
export function markedWords(
  { wanted, unwanted }: { wanted: number, unwanted: number },
  { blocks, short }: { blocks: boolean, short: boolean },
): string {
  const all = wanted + unwanted
  if (!blocks) return `${short ? '' : `${numberWords(all)} marked: `}${numberWords(wanted)} wanted, ${numberWords(unwanted)} unwanted`
  return short
    ? `${numberWords(unwanted)} of ${numberWords(all)} marked unwanted`
    : `${numberWords(unwanted)} of ${counted(all, 'marked message')} ${plural(all, 'was', 'were')} unwanted`
}

/** How much, from whom, for whom, in a few words. */
export function scopeWords(impact: ImpactView): string {
  if (!impact.copies) return 'no existing mail'
  const parts = [copiesWords(impact.copies), counted(impact.senders, 'sender'), counted(impact.recipients, 'recipient')]
  return `${parts.join(', ')}, ${percentWords(impact.share)} of the mail`
}

/** What is known of what nobody has marked. */
export function unmarkedWords(impact: ImpactView): string {
  if (!impact.unmarked) return ''
  const parts = [
    ...(impact.opened ? [`${numberWords(impact.opened)} opened`] : ['none opened']),
    ...(impact.firstContact ? [`${numberWords(impact.firstContact)} from new senders`] : []),
  ]
  return `of ${numberWords(impact.unmarked)} not marked: ${parts.join(', ')}`
}

/** How far the figures reach. */
export function lookedWords(impact: ImpactView, looking: boolean): string {
  const unknown = impact.unknown ? ` ${counted(impact.unknown, 'message')} cannot be simulated: only the log entry is left.` : ''
  if (impact.complete) return unknown.trim()
  const newest = `the newest ${numberWords(impact.looked)} of ${counted(impact.inScope, 'message')}`
  return `${looking ? 'Still counting; so far' : 'Among'} ${newest}.${unknown}`
}

/** How many of one way. */
export function goingCount({ wanted, unwanted, unmarked }: Pick<LaneChange, 'wanted' | 'unwanted' | 'unmarked'>): number {
  return wanted + unwanted + unmarked
}
