import { canonicalNetwork } from '../message'

/** RFC 7208 7.1: a domain, with macros in it. */
const MACRO = /^%(?:[%_-]|\{[slodiphcrtv]\d{0,3}r?[.+,/_=-]*\})/i
const MECHANISMS: Record<string, 'none' | 'needed' | 'optional'> = {
  all: 'none',
  include: 'needed',
  exists: 'needed',
  a: 'optional',
  mx: 'optional',
  ptr: 'optional',
}

/**
 * Whether a record is well formed from its begin to its end (RFC 7208 4.6, 12): an error after the term that matches makes it invalid too,
 * which mailauth does not see.
 * @param record the whole text, beginning with v=spf1
 */
export function isSpfRecord(record: string): boolean {
  const terms = record.split(/ +/).slice(1).filter(term => term !== '')
  let redirects = 0
  let explanations = 0
  for (const term of terms) {
    const modifier = /^([a-z][\w.-]*)=(.*)$/i.exec(term)
    if (modifier) {
      const name = modifier[1]!.toLowerCase()
      if (name === 'redirect') redirects++
      if (name === 'exp') explanations++
      if (!isMacroText(modifier[2]!) || ((name === 'redirect' || name === 'exp') && !isDomainSpec(modifier[2]!))) return false
    }
    else if (!isMechanism(term.replace(/^[+?~-]/, ''))) {
      return false
    }
  }
  return redirects <= 1 && explanations <= 1
}

function isMechanism(term: string): boolean {
  const name = /^[a-z0-9]+/i.exec(term)?.[0]
  if (name === undefined) return false
  const rest = term.slice(name.length)
  const lower = name.toLowerCase()
  if (lower === 'ip4' || lower === 'ip6') return isNetwork(rest, lower)
  const argument = Object.hasOwn(MECHANISMS, lower) ? MECHANISMS[lower]! : undefined
  if (argument === undefined) return false
  if (argument === 'none') return rest === ''
  if (argument === 'needed' || lower === 'ptr') {
    if (rest === '') return argument !== 'needed'
    return rest.startsWith(':') && isDomainSpec(rest.slice(1))
  }
  // a and mx may end in lengths of prefixes, for IPv4 and for IPv6; a slash within a macro is none.
  const [, domain, four, six] = /^(.*?)(?:\/(\d{1,3}))?(?:\/\/(\d{1,3}))?$/.exec(rest) ?? []
  if (domain === undefined || !isLength(four, 32) || !isLength(six, 128)) return false
  return domain === '' || (domain.startsWith(':') && isDomainSpec(domain.slice(1)))
}

function isLength(digits: string | undefined, most: number): boolean {
  return digits === undefined || (/^(?:0|[1-9]\d*)$/.test(digits) && Number(digits) <= most)
}

function isNetwork(rest: string, kind: 'ip4' | 'ip6'): boolean {
  const [, address, length] = /^:([\da-f.:]{2,45})(?:\/(\d{1,3}))?$/i.exec(rest) ?? []
  if (address === undefined || address.includes(':') !== (kind === 'ip6')) return false
  if (kind === 'ip4' && !/^(?:\d{1,3}\.){3}\d{1,3}$/.test(address)) return false
  return canonicalNetwork(address) !== null && isLength(length, kind === 'ip4' ? 32 : 128)
}

/** Visible characters, with valid macros. */
function isMacroText(text: string): boolean {
  let at = 0
  while (at < text.length) {
    if (text[at] !== '%') {
      if (text[at]! < '!' || text[at]! > '~') return false
      at++
      continue
    }
    const macro = MACRO.exec(text.slice(at, at + 40))
    if (!macro) return false
    at += macro[0].length
  }
  return true
}

// It ends in a top label, which is not all digits, or in a macro (RFC 7208 7.1).
function isDomainSpec(text: string): boolean {
  if (text === '' || !isMacroText(text)) return false
  if (text.endsWith('}')) return true
  const label = text.replace(/\.$/, '').split('.').at(-1)!
  return text.includes('.') && /^[a-z0-9](?:[a-z0-9-]*[a-z0-9])?$/i.test(label) && !/^\d+$/.test(label)
}
