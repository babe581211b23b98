import { addressParser } from 'postal-mime'
import { makeAddress, type Address } from '../address'
import { splitOutsideQuotes, withoutComments } from './comments'
import { decodeSafely } from './encoded-words'
import type { RawField } from './structure'

const MOST_ADDRESSES = 1000

/** The mailboxes of every field of that name, groups opened (RFC 5322 3.4), obsolete spellings understood (4.4). */
export function mailboxes(fields: readonly RawField[], name: string): Address[] {
  const out: Address[] = []
  for (const field of fields) {
    if (field.name.toLowerCase() !== name) continue
    for (const entry of addressParser(tidy(field.value), { flatten: true })) {
      if (entry.address && out.length < MOST_ADDRESSES) out.push(makeAddress(entry.address, decodeSafely(entry.name)))
    }
  }
  return out
}

/**
 * Brings a list of mailboxes into the form that every parser agrees on: no comments, no source routes, no white space
 * inside an address. Different readings of one From by us and by the reader's program are what forgers live on.
 */
function tidy(value: string): string {
  const plain = value.includes('(') ? withoutComments(nameFromComment(value)) : value
  return splitOutsideQuotes(plain, ',').map((mailbox) => {
    const angle = /^((?:[^<"]|"(?:\\.|[^"\\])*")*)<([^<>]*)>(.*)$/s.exec(mailbox)
    if (angle) return `${angle[1]}<${joined(angle[2]!).replace(/^@[^:]*:/, '')}>${angle[3]}`
    if (!mailbox.includes('@')) return mailbox
    // A group's name may stand before a bare address.
    const colon = mailbox.indexOf(':')
    return colon < 0 ? joined(mailbox) : mailbox.slice(0, colon + 1) + joined(mailbox.slice(colon + 1))
  }).filter(m => m.trim()).join(',')
}

// "jdoe@x.test (John Doe)" was the way to give a name before there were display names (RFC 5322 3.4, last paragraph).
function nameFromComment(value: string): string {
  return /^\s*[^\s<>(),:;"@]+@[^\s<>(),:;"@]+\s*\(([^()"]+)\)\s*$/.test(value)
    ? value.replace(/^\s*(\S+)\s*\(([^()"]+)\)\s*$/, '"$2" <$1>')
    : value
}

/** White space around dots and at signs taken out, but for what is quoted; a semicolon that ends a group stays. */
function joined(address: string): string {
  return address.split(/("(?:\\.|[^"\\])*")/).map((piece, i) => i % 2 ? piece : piece.replace(/\s*([.@])\s*/g, '$1')).join('').trim()
}
