import { setResponseStatus } from 'h3'
import { versionQuery } from '../../policy/list-form'
import { defineRoute, idParam } from '../../access/route'
import { endUse } from '../../policy/uses'

export default defineRoute<{ id: string }, { version: number }>(
  { params: idParam, query: versionQuery },
  async ({ event, asker, params, query }) => {
    await endUse(asker, params.id, query.version)
    setResponseStatus(event, 204)
    return null
  },
)
