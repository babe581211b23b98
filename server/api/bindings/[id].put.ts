import { bindingBody } from '../../policy/list-form'
import { defineRoute, idParam } from '../../access/route'
import { changeUse } from '../../policy/uses'

export default defineRoute(
  { params: idParam, body: bindingBody },
  ({ asker, params, body: { binding, version } }) => changeUse(asker, params.id, version, binding),
)
