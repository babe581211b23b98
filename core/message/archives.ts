import { decodeText } from './charset'

/** What an archive says of itself without being unpacked. */
export interface ArchiveFacts {
  /** Names of the files inside, as far as they can be read. */
  names: string[]
  /** Something inside needs a password. */
  locked: boolean
  /** Its table of contents could not be read whole, or not at all. */
  unread: boolean
}

const MAX_NAMES = 1000
const LONGEST_NAME = 500

const ARCHIVE_NAME = /\.(?:zip|rar|7z|t?gz|tar|bz2|xz|cab|iso|arj|lzh)$/i

/** The table of contents of an archive by its detected type; null for what is none. An archive inside it is not opened. */
export function archiveFacts(bytes: Uint8Array, detectedType: string | null): ArchiveFacts | null {
  const facts = contentsOf(bytes, detectedType)
  return facts?.names.some(name => ARCHIVE_NAME.test(name)) ? { ...facts, unread: true } : facts
}

function contentsOf(bytes: Uint8Array, detectedType: string | null): ArchiveFacts | null {
  // What stands before an archive does not keep programs from opening it.
  if (isZip(bytes) || endOfDirectory(bytes, viewOf(bytes)) >= 0) return zipFacts(bytes)
  switch (detectedType) {
    case 'application/x-tar':
      return tarFacts(bytes)
    case 'application/x-rar-compressed':
    case 'application/vnd.rar':
      return { names: [], locked: isLockedRar(bytes), unread: true }
    case 'application/x-7z-compressed':
      return { names: [], locked: contains(bytes.subarray(-64 * 1024), AES_OF_7Z), unread: true }
    case 'application/gzip':
    case 'application/x-bzip2':
    case 'application/x-xz':
    case 'application/vnd.ms-cab-compressed':
    case 'application/x-ace-compressed':
      return { names: [], locked: false, unread: true }
    default:
      return null
  }
}

function isZip(bytes: Uint8Array): boolean {
  return (
    bytes[0] === 0x50 &&
    bytes[1] === 0x4b &&
    ((bytes[2] === 3 && bytes[3] === 4) || (bytes[2] === 5 && bytes[3] === 6) || (bytes[2] === 7 && bytes[3] === 8))
  )
}

/*
 * A ZIP archive (PKWARE's APPNOTE 6.3, sections 4.3.12 and 4.3.16; ISO/IEC 21320-1) lists its files at its end:
 *
 *   central directory header, one a file        end of central directory
 *   0  "PK" 1 2                                  0  "PK" 5 6
 *   8  flags, bit 0: encrypted                  10  files
 *   28 length of name, 30 extra, 32 comment     16  where the directory begins
 *   46 name                                     20  length of the comment that follows
 */
function zipFacts(bytes: Uint8Array): ArchiveFacts {
  const facts: ArchiveFacts = { names: [], locked: false, unread: false }
  const view = viewOf(bytes)
  const end = endOfDirectory(bytes, view)
  if (end < 0) return { ...facts, unread: true }
  const count = view.getUint16(end + 10, true)
  let at = view.getUint32(end + 16, true)
  // What stands before the archive shifts everything; the directory ends where its end record begins.
  const shifted = end - view.getUint32(end + 12, true)
  if (shifted >= 0 && shifted !== at) at = shifted
  for (let i = 0; i < count; i++) {
    if (at + 46 > bytes.length || view.getUint32(at, true) !== 0x02014b50 || facts.names.length >= MAX_NAMES)
      return { ...facts, unread: true }
    const flags = view.getUint16(at + 8, true)
    const nameLength = view.getUint16(at + 28, true)
    if (flags & 1) facts.locked = true
    const name = bytes.subarray(at + 46, at + 46 + nameLength)
    // Bit 11: the name is UTF-8 (appendix D); else it is what the packing program had, mostly UTF-8 too by now.
    facts.names.push(decodeText(name, '').text.slice(0, LONGEST_NAME))
    at += 46 + nameLength + view.getUint16(at + 30, true) + view.getUint16(at + 32, true)
  }
  return facts
}

function viewOf(bytes: Uint8Array): DataView {
  return new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
}

function endOfDirectory(bytes: Uint8Array, view: DataView): number {
  for (let at = bytes.length - 22; at >= Math.max(0, bytes.length - 22 - 65_535); at--) {
    if (bytes[at] === 0x50 && view.getUint32(at, true) === 0x06054b50) return at
  }
  return -1
}

// POSIX.1-2017, pax, "ustar Interchange Format": blocks of 512 bytes, the name in the first 100, the size in octal at 124.
function tarFacts(bytes: Uint8Array): ArchiveFacts {
  const names: string[] = []
  for (let at = 0; at + 512 <= bytes.length && names.length < MAX_NAMES;) {
    const name = untilNul(bytes.subarray(at, at + 100))
    if (name === '') break
    names.push(name)
    const size = Number.parseInt(untilNul(bytes.subarray(at + 124, at + 136)).trim(), 8)
    if (Number.isNaN(size)) return { names, locked: false, unread: true }
    at += 512 + Math.ceil(size / 512) * 512
  }
  return { names, locked: false, unread: names.length >= MAX_NAMES }
}

function untilNul(bytes: Uint8Array): string {
  const end = bytes.indexOf(0)
  return decodeText(end < 0 ? bytes : bytes.subarray(0, end), '').text
}

// RAR 5 begins with "Rar!" 1A 07 01 00 and has an encryption header of type 4 first if even its names are locked; a file
// whose data are locked has an extra record of type 1, and RAR 4 flags in its headers (RARLAB's technical notes, from memory).
function isLockedRar(bytes: Uint8Array): boolean {
  if (bytes[6] === 1) return bytes[12] === 4 || bytes[13] === 4
  const mainFlags = (bytes[10] ?? 0) | ((bytes[11] ?? 0) << 8)
  const fileFlags = (bytes[23] ?? 0) | ((bytes[24] ?? 0) << 8)
  return (mainFlags & 0x80) !== 0 || (fileFlags & 0x04) !== 0
}

/** The coder that 7z names in its header for AES (7zFormat.txt of its source, from memory). */
const AES_OF_7Z = [0x06, 0xf1, 0x07, 0x01]

function contains(bytes: Uint8Array, wanted: readonly number[]): boolean {
  for (let at = bytes.indexOf(wanted[0]!); at >= 0; at = bytes.indexOf(wanted[0]!, at + 1)) {
    if (wanted.every((b, i) => bytes[at + i] === b)) return true
  }
  return false
}
