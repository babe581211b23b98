import { Joi } from '#core'
import { phraseSetForm } from '../../../policy/phrase-set-form'
import { defineRoute, idParam } from '../../../access/route'
import { changePhraseSet, type PhraseSetForm } from '../../../policy/phrase-sets'

const body = Joi.object<PhraseSetForm & { version: number }>({ ...phraseSetForm, version: Joi.number().integer().required() })

export default defineRoute(
  { params: idParam, body, version: 'body.version' },
  ({ actor, params, body: { version, ...form } }) => changePhraseSet(actor, params.id, version, form),
)
