import { setResponseStatus } from 'h3'
import { newBindingBody } from '../../../policy/list-form'
import { ADDS, defineRoute, idParam } from '../../../access/route'
import { putToUse } from '../../../policy/assignments'

export default defineRoute(
  { params: idParam, body: newBindingBody, version: ADDS },
  async ({ event, asker, params, body: { owner, binding } }) => {
    const made = await putToUse(asker, params.id, owner, binding)
    setResponseStatus(event, 201)
    return made
  },
)
