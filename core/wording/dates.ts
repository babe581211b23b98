// Dates for people, from ISO 8601 instants. Without a zone they are told in that of the machine: the browser's of who reads.
type Fields = Pick<Intl.DateTimeFormatOptions, 'day' | 'month' | 'year' | 'hour' | 'minute'>

const DAY: Fields = { day: 'numeric', month: 'short' }
const LONG_DAY: Fields = { day: 'numeric', month: 'long' }
const YEAR: Fields = { year: 'numeric' }
const TIME: Fields = { hour: '2-digit', minute: '2-digit' }

const formats = new Map<string, Intl.DateTimeFormat>()
function format(iso: string, fields: Fields, timeZone?: string): string {
  const key = `${Object.keys(fields).join()} ${fields.month} ${timeZone}`
  const made = formats.get(key) ?? new Intl.DateTimeFormat('en-GB', { ...fields, timeZone })
  formats.set(key, made)
  return made.format(new Date(iso))
}

const isThisYear = (iso: string, now: Date) => new Date(iso).getFullYear() === now.getFullYear()

/** Today the time, this year the day, else day and year: "09:41", "24 Nov", "3 Sept 2025". */
export function shortDate(iso: string, now: Date): string {
  if (new Date(iso).toDateString() === now.toDateString()) return format(iso, TIME)
  return format(iso, isThisYear(iso, now) ? DAY : { ...DAY, ...YEAR })
}

/** "24 November, 09:41"; of another year "24 November 2025, 09:41". */
export function longDate(iso: string, now: Date): string {
  return `${format(iso, isThisYear(iso, now) ? LONG_DAY : { ...LONG_DAY, ...YEAR })}, ${format(iso, TIME)}`
}

/** With its year, for logs and on paper: "24 November 2026". */
export function dayWords(iso: string, timeZone?: string): string {
  return format(iso, { ...LONG_DAY, ...YEAR }, timeZone)
}

/** "09:41". */
export function timeWords(iso: string, timeZone?: string): string {
  return format(iso, TIME, timeZone)
}

/** With its year, for logs and on paper: "24 November 2026, 09:41". */
export function instantWords(iso: string, timeZone?: string): string {
  return `${dayWords(iso, timeZone)}, ${timeWords(iso, timeZone)}`
}
