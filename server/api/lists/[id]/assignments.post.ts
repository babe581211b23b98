import { setResponseStatus } from 'h3'
import { newAssignmentBody } from '../../../policy/list-form'
import { ADDS, defineRoute, idParam } from '../../../access/route'
import { addAssignment } from '../../../policy/assignments'

export default defineRoute(
  { params: idParam, body: newAssignmentBody, version: ADDS },
  async ({ event, actor, params, body: { owner, assignment } }) => {
    const made = await addAssignment(actor, params.id, owner, assignment)
    setResponseStatus(event, 201)
    return made
  },
)
