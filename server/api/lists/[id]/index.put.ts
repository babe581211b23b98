import { listBody } from '../../../policy/list-form'
import { defineRoute, idParam } from '../../../access/route'
import { changeList, openList } from '../../../policy/lists'

export default defineRoute(
  { params: idParam, body: listBody, version: 'body.version' },
  async ({ actor, params, body: { version, ...form } }) => {
    const { eventId } = await changeList(actor, params.id, version, form)
    return { ...(await openList(actor, params.id, { limit: 100 })), eventId }
  },
)
