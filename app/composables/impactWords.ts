import { isWhole, type LaneChange, type Looked } from '#core/simulate'
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
  if (!impact.copies) return isWhole(impact) ? 'no existing mail' : 'no existing mail so far'
  const parts = [copiesWords(impact.copies), counted(impact.senders, 'sender'), counted(impact.recipients, 'recipient')]
  return isWhole(impact) ? `${parts.join(', ')}, ${percentWords(impact.share)} of the mail` : parts.join(', ')
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

/** That figures are not true for all of the mail yet. */
export function soFarWords({ looked, inScope }: Looked): string {
  return `Still counting; so far the newest ${numberWords(looked)} of ${counted(inScope, 'message')}`
}

/** Among how much mail something was counted, as a heading of the figures. */
export function amongWords(far: Looked): string {
  if (!isWhole(far)) return soFarWords(far)
  return `Matches among ${far.inScope === 1 ? 'the one message' : `all ${counted(far.inScope, 'message')}`}`
}

/** How many of one way. */
export function goingCount({ wanted, unwanted, unmarked }: Pick<LaneChange, 'wanted' | 'unwanted' | 'unmarked'>): number {
  return wanted + unwanted + unmarked
}
