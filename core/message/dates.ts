import { withoutComments } from './comments'

const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec']
/** RFC 5322 4.3; military zones and what nobody knows count as -0000. */
const ZONES: Record<string, number> = {
  ut: 0,
  gmt: 0,
  z: 0,
  est: -300,
  edt: -240,
  cst: -360,
  cdt: -300,
  mst: -420,
  mdt: -360,
  pst: -480,
  pdt: -420,
}
const MINUTE = 60_000
const MAX_LENGTH = 300

/**
 * A date and time as a message writes it (RFC 5322 3.3, with the obsolete forms of 4.3: comments and white space anywhere,
 * years of two or three digits, zones by name), and what readers show besides: a zone without a sign, or with two; C's asctime. A zone
 * that is missing or unknown counts as -0000, never as the host's own.
 * @returns an ISO 8601 instant; null for what is no date, 31 February among it
 */
export function readDate(field: string | undefined): string | null {
  if (!field) return null
  const plain = withoutComments(field.slice(0, MAX_LENGTH))
  // Everything but words, numbers, colons and the zone's sign only separates.
  const tokens = plain.match(/[a-z]+|\d+|[:+-]/gi) ?? []
  let at = 0
  if (isWord(tokens[at]) && MONTHS.indexOf(tokens[at]!.toLowerCase().slice(0, 3)) < 0) at++ // the day of the week says nothing new
  // As C's asctime writes it: “Sat Sep 21 08:18:08 2002”, the month first and the year last.
  const yearLast = isWord(tokens[at])
  const [day, month] = yearLast ? [tokens[at + 1], tokens[at]] : [tokens[at], tokens[at + 1]]
  const yearText = yearLast ? tokens.pop() : tokens[at + 2]
  if (!isNumber(day, 2) || !isWord(month) || !isNumber(yearText, 4) || (yearLast && yearText.length < 4)) return null
  at += yearLast ? 2 : 3
  const monthIndex = MONTHS.indexOf(month.toLowerCase().slice(0, 3))
  const [hour, colon, minute] = [tokens[at], tokens[at + 1], tokens[at + 2]]
  if (!isNumber(hour, 2) || colon !== ':' || !isNumber(minute, 2)) return null
  at += 3
  let second = 0
  if (tokens[at] === ':') {
    if (!isNumber(tokens[at + 1], 2)) return null
    second = Number(tokens[at + 1])
    at += 2
  }
  const zone = zoneMinutes(tokens.slice(at))
  if (zone === null || monthIndex < 0) return null
  const year = fullYear(yearText)
  const [d, h, m] = [Number(day), Number(hour), Number(minute)]
  // A leap second (60) falls on the next minute.
  if (year < 1900 || h > 23 || m > 59 || second > 60) return null
  const time = Date.UTC(year, monthIndex, d, h, m, second)
  if (new Date(Date.UTC(year, monthIndex, d)).getUTCDate() !== d) return null
  return new Date(time - zone * MINUTE).toISOString()
}

/** True if a date names the zone that it is in. */
export function hasZone(field: string): boolean {
  const plain = withoutComments(field.slice(0, MAX_LENGTH)).trim()
  return /[+-]\s?\d{4}|\d\s*[a-z]{1,5}\s*$/i.test(plain) || /\d{4}\s+\d{1,2}:\d\d(?::\d\d)?\s+\d{3,5}$/.test(plain)
}

function zoneMinutes(tokens: readonly string[]): number | null {
  const [sign, digits] = tokens
  if (sign === undefined) return 0
  if (sign === '+' || sign === '-') {
    // Two signs: as a zone that is unknown.
    if (digits === '+' || digits === '-') return 0
    const minutes = minutesOf(digits)
    return minutes === null ? null : sign === '-' ? -minutes : minutes
  }
  // Without a sign it is ahead, as readers take it.
  return isWord(sign) ? (ZONES[sign.toLowerCase()] ?? 0) : minutesOf(sign)
}

// Hours and minutes, four digits by the standard; a nought before them, or one too few, changes nothing.
function minutesOf(digits: string | undefined): number | null {
  if (!isNumber(digits, 5) || digits.length < 3) return null
  const [hours, minutes] = [Math.floor(Number(digits) / 100), Number(digits) % 100]
  return hours > 23 || minutes > 59 ? null : hours * 60 + minutes
}

// RFC 5322 4.3: two digits up to 49 are of this century, else, and with three digits, 1900 is added.
function fullYear(text: string): number {
  const year = Number(text)
  if (text.length >= 4) return year
  return text.length === 2 && year < 50 ? 2000 + year : 1900 + year
}

function isWord(token: string | undefined): token is string {
  return token !== undefined && /^[a-z]/i.test(token)
}

function isNumber(token: string | undefined, most: number): token is string {
  return token !== undefined && /^\d/.test(token) && token.length <= most
}
