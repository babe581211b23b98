import { defineRoute, idParam } from '../../../access/route'
import { changeMember } from '../../../users/member-changes'
import { changedMemberForm } from '../../../users/member-form'

export default defineRoute(
  { params: idParam, body: changedMemberForm, version: 'body.version' },
  ({ actor, params, body }) => changeMember(actor, params.id, body),
)
