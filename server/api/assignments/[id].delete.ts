import { versionQuery } from '../../policy/list-form'
import { defineRoute, idParam } from '../../access/route'
import { removeAssignment } from '../../policy/assignments'

export default defineRoute(
  { params: idParam, query: versionQuery, version: 'query.version' },
  ({ actor, params, query }) => removeAssignment(actor, params.id, query.version),
)
