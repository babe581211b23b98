import { defineRoute, idParam } from '../../../access/route'
import { memberForm } from '../../../people/member-form'
import { changeMember } from '../../../people/members'

export default defineRoute({ params: idParam, body: memberForm }, ({ asker, params, body }) => changeMember(asker, params.id, body))
