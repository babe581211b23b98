import { bindingBody } from '../../policy/list-form'
import { defineRoute, idParam } from '../../access/route'
import { changeUse } from '../../policy/assignments'

export default defineRoute(
  { params: idParam, body: bindingBody, version: 'body.version' },
  ({ asker, params, body: { binding, version } }) => changeUse(asker, params.id, version, binding),
)
