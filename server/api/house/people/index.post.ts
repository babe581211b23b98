import { setResponseStatus } from 'h3'
import { defineRoute } from '../../../access/route'
import { memberForm } from '../../../people/member-form'
import { addMember } from '../../../people/members'

export default defineRoute({ body: memberForm }, async ({ event, asker, body }) => {
  const made = await addMember(asker, body)
  setResponseStatus(event, 201)
  return made
})
