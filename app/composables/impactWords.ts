import type { LaneChange } from '#core/simulate'
import type { ImpactView } from '~/api/client'

const n = (count: number) => count.toLocaleString('en')
export const copiesWords = (count: number) => (count === 1 ? '1 copy' : `${n(count)} copies`)

/** How much, from whom, for whom, in a few words. */
export function scopeWords(impact: ImpactView): string {
  if (!impact.copies) return 'no mail here'
  const recipients = impact.recipients === 1 ? '1 reader' : `${n(impact.recipients)} readers`
  const senders = impact.senders === 1 ? '1 sender' : `${n(impact.senders)} senders`
  return `${copiesWords(impact.copies)}, ${senders}, ${recipients}, ${shareWords(impact.share)}`
}

function shareWords(share: number): string {
  const percent = share * 100
  return `${percent > 0 && percent < 0.1 ? 'under 0.1' : percent < 10 ? percent.toFixed(1).replace(/\.0$/, '') : Math.round(percent)} % `
    + `of the mail`
}

/** What is known of what nobody has marked. */
export function unmarkedWords(impact: ImpactView): string {
  if (!impact.unmarked) return ''
  const parts = [
    ...(impact.opened ? [`${n(impact.opened)} opened`] : ['none opened']),
    ...(impact.firstContact ? [`${n(impact.firstContact)} from a sender never seen before`] : []),
  ]
  return `of the unjudged ${parts.join(', ')}`
}

/** How far the figures reach. */
export function lookedWords(impact: ImpactView, looking: boolean): string {
  const unknown = impact.unknown ? ` ${n(impact.unknown)} cannot be rehearsed: only their record is here.` : ''
  if (impact.complete) return unknown.trim()
  return `${looking ? 'Looking on; so far' : 'Of'} the newest ${n(impact.looked)} of ${n(impact.inScope)}.${unknown}`
}

/** How many of one way. */
export function goingCount({ wanted, unwanted, unmarked }: Pick<LaneChange, 'wanted' | 'unwanted' | 'unmarked'>): number {
  return wanted + unwanted + unmarked
}
