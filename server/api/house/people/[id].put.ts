import { defineRoute, idParam } from '../../../access/route'
import { changeMember } from '../../../people/member-changes'
import { changedMemberForm } from '../../../people/member-form'

export default defineRoute(
  { params: idParam, body: changedMemberForm, version: 'body.version' },
  ({ asker, params, body }) => changeMember(asker, params.id, body),
)
