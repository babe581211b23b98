import { eq } from 'drizzle-orm'
import { PARSER_VERSION } from '#core'
import { db } from '../db/client'
import { openedHtml } from '../db/schema'
import { open as openHere } from '../workers/open'
import { sourceOf } from '../intake/stored-message'
import { cleanText } from '../platform/clean-text'
import { log } from '../platform/log'
import { hasThreads, runOn, TookTooLong } from '../platform/threads'
import { newStart } from '../platform/work-clock'

const MAX_SECONDS = 5

/**
 * The HTML of a message made harmless; null where it has none that can be shown. It is made at the first opening and kept,
 * so that no message costs a thread twice.
 */
export async function htmlToShow(messageId: number): Promise<string | null> {
  const [kept] = await db().select().from(openedHtml).where(eq(openedHtml.messageId, messageId))
  if (kept && kept.parser === PARSER_VERSION) return kept.html
  const source = await sourceOf(messageId)
  if (!source) return null
  const made = await makeHarmless(source)
  const html = made === null ? null : cleanText(made)
  await db()
    .insert(openedHtml)
    .values({ messageId, parser: PARSER_VERSION, html })
    .onConflictDoUpdate({ target: openedHtml.messageId, set: { parser: PARSER_VERSION, html } })
  return html
}

async function makeHarmless(bytes: Uint8Array): Promise<string | null> {
  if (!hasThreads()) return openHere({ bytes })
  const start = newStart()
  try {
    return await runOn<string | null>('opening', 'open', { bytes, start }, { seconds: MAX_SECONDS, start })
  }
  catch (error) {
    if (!(error instanceof TookTooLong)) throw error
    log.warn({ seconds: MAX_SECONDS }, 'the HTML of a message took too long to make harmless; its text alone is shown')
    return null
  }
}
