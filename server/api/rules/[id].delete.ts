import { versionQuery } from '../../policy/list-form'
import { defineRoute, idParam } from '../../access/route'
import { removeRule } from '../../policy/rules'

export default defineRoute(
  { params: idParam, query: versionQuery, version: 'query.version' },
  ({ actor, params, query }) => removeRule(actor, params.id, query.version),
)
