import { bindingBody } from '../../policy/list-form'
import { defineRoute, idParam } from '../../access/route'
import { changeUse, type BindingForm } from '../../policy/uses'

export default defineRoute<{ id: string }, unknown, { binding: BindingForm, version: number }>(
  { params: idParam, body: bindingBody },
  ({ asker, params, body: { binding, version } }) => changeUse(asker, params.id, version, binding),
)
