import { setResponseStatus } from 'h3'
import { Joi } from '#core'
import { ADDS, defineRoute } from '../../access/route'
import { makeQuarantine, quarantineName } from '../../policy/quarantines'

const body = Joi.object<{ name: string }, true>({ name: quarantineName })

export default defineRoute({ body, version: ADDS }, async ({ event, actor, body: { name } }) => {
  const made = await makeQuarantine(actor, name)
  setResponseStatus(event, 201)
  return made
})
