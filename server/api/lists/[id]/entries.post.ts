import { setResponseStatus } from 'h3'
import { ENTRY_KINDS, type EntryKind, Joi } from '#core'
import { entryFields } from '../../../policy/list-form'
import { ADDS, defineRoute, idParam } from '../../../access/route'
import type { Done } from '../../../policy/apply'
import { addToList, mustBeAddable, reportOf, type Added, type PasteProgress } from '../../../policy/list-entries'
import { answerWithEvents } from '../../../platform/events'

const query = Joi.object<{ follow?: string }>({ follow: Joi.string().allow('').max(5) })
const body = Joi.object<{ text: string, below: boolean, dry: boolean, as?: EntryKind, note?: string, expires?: string }, true>({
  text: Joi.string()
    .max(25_000_000)
    .required()
    .messages({ 'string.empty': 'enter one address or domain per line', 'any.required': 'enter one address or domain per line' }),
  below: Joi.boolean().default(false),
  // Only told what would become of each line.
  dry: Joi.boolean().default(false),
  as: Joi.string().valid(...ENTRY_KINDS),
  ...entryFields,
})

export default defineRoute(
  { params: idParam, body, query, most: 'large', version: ADDS },
  async ({ event, actor, params, body: { text, dry, ...options }, query: { follow } }) => {
    if (dry) return reportOf(actor, params.id, text, options)
    // How far it is streams in; it goes on, and is active, also where the caller leaves.
    if (follow !== undefined) {
      await mustBeAddable(actor, params.id)
      return answerWithEvents<PasteProgress | (Added & Done)>(event, ({ tell }) => addToList(actor, params.id, text, { ...options, tell }))
    }
    const result = await addToList(actor, params.id, text, options)
    setResponseStatus(event, result.addedCount ? 201 : 200)
    return result
  },
)
