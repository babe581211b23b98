import { setResponseStatus } from 'h3'
import { versionQuery } from '../../http/list-form'
import { defineRoute, idParam } from '../../http/route'
import { removeRule } from '../../services/rules'

export default defineRoute<{ id: string }, { version: number }>(
  { params: idParam, query: versionQuery },
  async ({ event, asker, params, query }) => {
    await removeRule(asker, params.id, query.version)
    setResponseStatus(event, 204)
    return null
  },
)
