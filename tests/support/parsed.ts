import fc from 'fast-check'
import { parseMessage } from '#core'
import { arbitraryMessage } from './arbitrary'
import { TRUST } from './build'

const MESSAGES = 1500

// Parsed once a worker: reading is not what the properties of deciding are about, and costs more than all else in them.
const POOL = await Promise.all(
  fc.sample(arbitraryMessage, { seed: 71, numRuns: MESSAGES }).map(({ bytes, envelope }) => parseMessage(bytes, envelope, TRUST)),
)

/** One of the messages of `arbitraryMessage` that were read once. */
export const arbitraryParsed = fc.constantFrom(...POOL)

/** So many of them. */
export const severalParsed = (n: number) => fc.array(arbitraryParsed, { minLength: n, maxLength: n })
