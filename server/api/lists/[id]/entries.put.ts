import Joi from 'joi'
import { entryFields } from '../../../http/list-form'
import { defineRoute, idParam } from '../../../http/route'
import { changeEntries } from '../../../services/list-entries'

const body = Joi.object({
  ids: Joi.array().items(Joi.string().max(80)).min(1).max(10_000).unique().single().required(),
  note: entryFields.note.allow(null),
  expires: entryFields.expires.allow(null),
})

export default defineRoute<{ id: string }, unknown, { ids: string[], note?: string | null, expires?: string | null }>({ params: idParam, body }, ({ asker, params, body: { ids, ...change } }) => changeEntries(asker, params.id, ids, change))
