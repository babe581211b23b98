import { setResponseStatus } from 'h3'
import { bindingBody } from '../../policy/list-form'
import { defineRoute, idParam } from '../../access/route'
import { changeUse, type BindingForm } from '../../policy/uses'

export default defineRoute<{ id: string }, unknown, { binding: BindingForm, version: number }>(
  { params: idParam, body: bindingBody },
  async ({ event, asker, params, body: { binding, version } }) => {
    await changeUse(asker, params.id, version, binding)
    setResponseStatus(event, 204)
    return null
  },
)
