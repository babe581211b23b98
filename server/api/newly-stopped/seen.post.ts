import { Joi } from '#core'
import { defineRoute } from '../../access/route'
import { sawStopped } from '../../copies/newly-stopped'

const body = Joi.object<{ clause: string }, true>({ clause: Joi.string().max(100).required() })
const version = { none: 'only that one was told' }

export default defineRoute({ body, version }, async ({ actor, body: { clause } }) => {
  await sawStopped(actor, clause)
  return { clause }
})
