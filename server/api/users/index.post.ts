import { setResponseStatus } from 'h3'
import { ADDS, defineRoute } from '../../access/route'
import { memberForm } from '../../users/member-form'
import { addMember } from '../../users/member-changes'

export default defineRoute({ body: memberForm, version: ADDS }, async ({ event, actor, body }) => {
  const made = await addMember(actor, body)
  setResponseStatus(event, 201)
  return made
})
