import { setResponseStatus } from 'h3'
import { versionQuery } from '../../http/list-form'
import { defineRoute, idParam } from '../../http/route'
import { endUse } from '../../services/bindings'

export default defineRoute<{ id: string }, { version: number }>(
  { params: idParam, query: versionQuery },
  async ({ event, asker, params, query }) => {
    await endUse(asker, params.id, query.version)
    setResponseStatus(event, 204)
    return null
  },
)
