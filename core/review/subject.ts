const MAX = 200
const ANSWERS = new Set(['re', 'aw', 'sv', 'fw', 'fwd', 'wg', 'vs', 'antw', 'tr', 'rv'])
const DAYS_AND_MONTHS = new Set(
  ('mon tue wed thu fri sat sun monday tuesday wednesday thursday friday saturday sunday jan feb mar apr may jun jul aug sep sept oct nov '
    + 'dec january february march april june july august september october november december').split(' '),
)

/**
 * What subjects are compared by: case folded (NFKC), without marks of answers and forwarding, numbers, dates and punctuation, so that
 * “Invoice 7718 of 3 November” and “Re: invoice 7719” are one. A subject of which nothing is left is compared as it stands.
 */
export function subjectKey(subject: string): string {
  const plain = subject.normalize('NFKC').toLowerCase().slice(0, MAX * 4)
  // A word in which digits stand is a number, whatever letters it has.
  const words = plain.split(/[^\p{L}\p{N}\p{M}]+/u).filter(w => w !== '' && !/\p{N}/u.test(w) && !DAYS_AND_MONTHS.has(w))
  while (words.length && ANSWERS.has(words[0]!)) words.shift()
  const key = words.join(' ')
  return (key || plain.trim()).slice(0, MAX)
}
