import { Joi } from '#core'
import { defineRoute } from '../access/route'
import { impactOfPreview, type ImpactTold } from '../mail/rehearsal'
import { answerWithEvents } from '../platform/events'
import { changesField, changesOf } from '../policy/changes-form'
import { previewAsActing } from '../policy/preview'

const body = Joi.object<{ changes: unknown[], whole: boolean }, true>({ changes: changesField, whole: Joi.boolean().default(false) })
const query = Joi.object<{ follow?: string }>({ follow: Joi.string().allow('').max(5) })

// With ?follow the newest mail answers at once and the rest streams in, until the caller leaves.
export default defineRoute({ body, query }, async ({ event, asker, body: { changes, whole }, query: { follow } }) => {
  // What is wrong with them is an answer like any other.
  const preview = await previewAsActing(asker, changesOf(changes))
  if (follow === undefined) return impactOfPreview(asker, preview, { whole })
  return answerWithEvents<ImpactTold>(event, ({ tell, signal }) => impactOfPreview(asker, preview, { whole: true, tell, signal }))
})
