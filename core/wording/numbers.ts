// Numbers for people. The language is fixed: what is said must not depend on where it is computed.
const NUMBER = new Intl.NumberFormat('en-GB', { maximumFractionDigits: 6 })
const PERCENT = new Intl.NumberFormat('en-GB', { style: 'percent' })
const SMALL_PERCENT = new Intl.NumberFormat('en-GB', { style: 'percent', maximumFractionDigits: 1 })
const PLURAL = new Intl.PluralRules('en-GB')

/** "1,284". */
export function numberWords(n: number): string {
  return NUMBER.format(n)
}

/** "17%", "2.5%", "under 0.1%". @param share from 0 to 1 */
export function percentWords(share: number): string {
  if (share > 0 && share < 0.001) return `under ${SMALL_PERCENT.format(0.001)}`
  return (share < 0.1 ? SMALL_PERCENT : PERCENT).format(share)
}

/** The singular or the plural of a word, by a number. */
export function plural(n: number, one: string, many = `${one}s`): string {
  return PLURAL.select(n) === 'one' ? one : many
}

/** "1 message", "1,284 messages". @param many the plural where it is not formed by adding an s */
export function counted(n: number, one: string, many?: string): string {
  return `${numberWords(n)} ${plural(n, one, many)}`
}

/** A size in bytes: "2 MB", "1.5 kB", "12 bytes". */
export function sizeWords(bytes: number): string {
  if (bytes >= 1_000_000) return `${numberWords(bytes / 1_000_000)} MB`
  return bytes >= 1000 ? `${numberWords(bytes / 1000)} kB` : counted(bytes, 'byte')
}

/** The same in whole kB or tenths of MB, for a narrow column: "1 kB", "230 kB", "2.3 MB". */
export function shortSize(bytes: number): string {
  if (bytes >= 1_000_000) return `${numberWords(Math.round(bytes / 100_000) / 10)} MB`
  return `${numberWords(Math.max(1, Math.round(bytes / 1000)))} kB`
}
