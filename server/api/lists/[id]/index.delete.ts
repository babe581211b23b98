import { versionQuery } from '../../../policy/list-form'
import { defineRoute, idParam } from '../../../access/route'
import { removeList } from '../../../policy/lists'

export default defineRoute(
  { params: idParam, query: versionQuery, version: 'query.version' },
  ({ actor, params, query }) => removeList(actor, params.id, query.version),
)
