import { safeHtml } from './safe-html'

/** The HTML of one message, made harmless. */
export function open({ bytes, started }: { bytes: Uint8Array, started?: Int32Array }): Promise<string | null> {
  if (started) Atomics.store(started, 0, 1)
  return safeHtml(bytes)
}
