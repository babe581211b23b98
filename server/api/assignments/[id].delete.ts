import { versionQuery } from '../../policy/list-form'
import { defineRoute, idParam } from '../../access/route'
import { endUse } from '../../policy/assignments'

export default defineRoute(
  { params: idParam, query: versionQuery, version: 'query.version' },
  ({ asker, params, query }) => endUse(asker, params.id, query.version),
)
