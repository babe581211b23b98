const DAY = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short' })
const TIME = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit' })
const LONG = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'long' })
const YEAR = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric' })

/** Today the time, this year the day, else day and year. */
export function shortWhen(iso: string, now = new Date()): string {
  const date = new Date(iso)
  if (date.toDateString() === now.toDateString()) return TIME.format(date)
  return date.getFullYear() === now.getFullYear() ? DAY.format(date) : YEAR.format(date)
}

/** "24 November, 09:41". */
export function longDateTime(iso: string): string {
  const date = new Date(iso)
  return `${LONG.format(date)}, ${TIME.format(date)}`
}

/** An address cut in the middle, so that both ends of the domain show. */
export function cutMiddle(text: string, most = 30): string {
  if (text.length <= most) return text
  const tail = Math.ceil((most - 1) * 0.6)
  return `${text.slice(0, most - 1 - tail)}…${text.slice(-tail)}`
}

/** "24 November 2026". */
export function longDay(iso: string): string {
  const date = new Date(iso)
  return `${LONG.format(date)} ${date.getFullYear()}`
}

/** "09:41". */
export function timeOf(iso: string): string {
  return TIME.format(new Date(iso))
}
