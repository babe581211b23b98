import { begin, type Start } from '../platform/work-clock'
import { safeHtml } from './safe-html'

/** The HTML of one message, made harmless. */
export function open({ bytes, start }: { bytes: Uint8Array, start?: Start }): Promise<string | null> {
  begin(start)
  return safeHtml(bytes)
}
