import { parseMessage, type Envelope, type Trust } from '#core'
import { safeHtml as makeSafe } from './safe-html'

/** One message to read, off the thread that serves people. */
export function read({ bytes, envelope, trust }: { bytes: Uint8Array, envelope: Envelope, trust: Trust }) {
  return parseMessage(bytes, envelope, trust)
}

/** The HTML of one message, made harmless. */
export function safeHtml(bytes: Uint8Array) {
  return makeSafe(bytes)
}
