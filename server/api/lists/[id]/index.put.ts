import { listBody } from '../../../policy/list-form'
import { defineRoute, idParam } from '../../../access/route'
import { changeList, openList, type ListForm } from '../../../policy/lists'

export default defineRoute<{ id: string }, unknown, ListForm & { version: number }>(
  { params: idParam, body: listBody },
  async ({ asker, params, body: { version, ...form } }) => {
    await changeList(asker, params.id, version, form)
    return openList(asker, params.id, { limit: 100 })
  },
)
