import { Joi } from '#core'
import { COMPUTES, defineRoute } from '../../access/route'
import { partsOfChange } from '../../impact/rule-parts'
import { changesOf } from '../../policy/changes-form'

const body = Joi.object<{ changes: unknown[] }, true>({ changes: Joi.array().length(1).required() })

export default defineRoute({ body, most: 'changes', version: COMPUTES }, async ({ actor, body: { changes } }) => {
  const [change] = await changesOf(changes)
  return partsOfChange(actor, change!)
})
