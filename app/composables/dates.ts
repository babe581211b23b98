import { longDate, shortDate } from '#core/wording'

/** Today the time, this year the day, else day and year. */
export function shortWhen(iso: string): string {
  return shortDate(iso, new Date())
}

/** "24 November, 09:41"; with its year where that is another. */
export function longDateTime(iso: string): string {
  return longDate(iso, new Date())
}

/** An address cut in the middle, so that both ends of the domain show. */
export function cutMiddle(text: string, most = 30): string {
  if (text.length <= most) return text
  const tail = Math.ceil((most - 1) * 0.6)
  return `${text.slice(0, most - 1 - tail)}…${text.slice(-tail)}`
}
