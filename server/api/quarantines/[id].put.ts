import { Joi } from '#core'
import { defineRoute, idParam } from '../../access/route'
import { quarantineName, renameQuarantine } from '../../policy/quarantines'

const body = Joi.object<{ name: string }, true>({ name: quarantineName })

export default defineRoute({ params: idParam, body }, ({ asker, params, body: { name } }) => renameQuarantine(asker, params.id, name))
