import { setResponseStatus } from 'h3'
import { ADDS, defineRoute } from '../../../access/route'
import { memberForm } from '../../../people/member-form'
import { addMember } from '../../../people/member-changes'

export default defineRoute({ body: memberForm, version: ADDS }, async ({ event, asker, body }) => {
  const made = await addMember(asker, body)
  setResponseStatus(event, 201)
  return made
})
