import { assignmentBody } from '../../policy/list-form'
import { defineRoute, idParam } from '../../access/route'
import { changeAssignment } from '../../policy/assignments'

export default defineRoute(
  { params: idParam, body: assignmentBody, version: 'body.version' },
  ({ actor, params, body: { assignment, version } }) => changeAssignment(actor, params.id, version, assignment),
)
