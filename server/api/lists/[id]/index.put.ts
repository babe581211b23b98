import { listBody } from '../../../policy/list-form'
import { defineRoute, idParam } from '../../../access/route'
import { changeList, openList } from '../../../policy/lists'

export default defineRoute(
  { params: idParam, body: listBody, version: 'body.version' },
  async ({ asker, params, body: { version, ...form } }) => {
    const { act } = await changeList(asker, params.id, version, form)
    return { ...(await openList(asker, params.id, { limit: 100 })), act }
  },
)
