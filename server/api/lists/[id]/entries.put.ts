import { Joi } from '#core'
import { entryFields } from '../../../policy/list-form'
import { defineRoute, idParam } from '../../../access/route'
import { changeEntries } from '../../../policy/list-entries'

const body = Joi.object<{ ids: string[], seen: number, note?: string | null, expires?: string | null }, true>({
  ids: Joi.array().items(Joi.string().max(80)).min(1).max(10_000).unique().single().required(),
  seen: Joi.number().integer().required().messages({ 'any.required': 'give the version of the list that you read' }),
  note: entryFields.note.allow(null),
  expires: entryFields.expires.allow(null),
})

export default defineRoute(
  { params: idParam, body, version: 'body.seen' },
  ({ actor, params, body: { ids, seen, ...change } }) => changeEntries(actor, params.id, ids, { base: seen, ...change }),
)
