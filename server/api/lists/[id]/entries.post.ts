import { setResponseStatus } from 'h3'
import { ENTRY_KINDS, type EntryKind, Joi } from '#core'
import { entryFields } from '../../../policy/list-form'
import { defineRoute, idParam } from '../../../access/route'
import { addToList } from '../../../policy/list-entries'

const body = Joi.object<{ text: string, below: boolean, as?: EntryKind, note?: string, expires?: string }, true>({
  text: Joi.string()
    .max(25_000_000)
    .required()
    .messages({ 'string.empty': 'write one address or domain a line', 'any.required': 'write one address or domain a line' }),
  below: Joi.boolean().default(false),
  as: Joi.string().valid(...ENTRY_KINDS),
  ...entryFields,
})

export default defineRoute(
  { params: idParam, body },
  async ({ event, asker, params, body: { text, ...options } }) => {
    const result = await addToList(asker, params.id, text, options)
    setResponseStatus(event, result.added.length ? 201 : 200)
    return result
  },
)
