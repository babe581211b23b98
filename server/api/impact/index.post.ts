import { Joi } from '#core'
import { COMPUTES, defineRoute } from '../../access/route'
import { impactOfPreview, type ImpactView } from '../../impact/simulation'
import { answerWithEvents } from '../../platform/events'
import { changesField, changesOf } from '../../policy/changes-form'
import { previewChanges } from '../../policy/preview'

const body = Joi.object<{ changes: unknown[], proposed: boolean }, true>({
  changes: changesField,
  // What is beyond one's power is looked at among one's own mail.
  proposed: Joi.boolean().default(false),
})
const query = Joi.object<{ follow?: string }>({ follow: Joi.string().allow('').max(5) })

// With ?follow the newest mail answers at once, so far, and the rest streams in, until the caller leaves.
export default defineRoute({ body, query, most: 'changes', version: COMPUTES }, async ({ event, actor, body: form, query: { follow } }) => {
  const { changes, proposed } = form
  // What is wrong with them is an answer like any other.
  const preview = await previewChanges(actor, await changesOf(changes), { monitorToo: true, proposed })
  if (follow === undefined) return impactOfPreview(actor, preview)
  return answerWithEvents<ImpactView>(event, ({ tell, signal }) => impactOfPreview(actor, preview, { tell, signal }))
})
