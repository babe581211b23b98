import { setResponseStatus } from 'h3'
import { Joi } from '#core'
import { phraseSetForm } from '../../policy/phrase-set-form'
import { ADDS, defineRoute } from '../../access/route'
import { makePhraseSet, type PhraseSetForm } from '../../policy/phrase-sets'

export default defineRoute({ body: Joi.object<PhraseSetForm>(phraseSetForm), version: ADDS }, async ({ event, actor, body }) => {
  const made = await makePhraseSet(actor, body)
  setResponseStatus(event, 201)
  return made
})
