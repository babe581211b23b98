import { Joi } from '#core'
import { COMPUTES, defineRoute } from '../../access/route'
import { partsOfChange } from '../../impact/rule-parts'
import { answerWithEvents } from '../../platform/events'
import { changesOf } from '../../policy/changes-form'
import type { TakenApart } from '../../workers/parts'

const body = Joi.object<{ changes: unknown[] }, true>({ changes: Joi.array().length(1).required() })
const query = Joi.object<{ follow?: string }>({ follow: Joi.string().allow('').max(5) })

// With ?follow what was found so far is told on the way.
export default defineRoute({ body, query, most: 'changes', version: COMPUTES }, async ({ event, actor, body: { changes }, query: { follow } }) => {
  const [change] = await changesOf(changes)
  if (follow === undefined) return partsOfChange(actor, change!)
  return answerWithEvents<TakenApart>(event, how => partsOfChange(actor, change!, how))
})
