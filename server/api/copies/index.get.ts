import { Joi } from '#core'
import { copyFilter } from '../../copies/copy-filter'
import { defineRoute } from '../../access/route'
import { listCopies, type CopyPage } from '../../copies/copies'

const query = Joi.object<CopyPage, true>({
  ...copyFilter,
  cursor: Joi.string().max(200),
  limit: Joi.number().integer().min(1).max(200).default(50),
})

export default defineRoute({ query }, ({ actor, query: page }) => listCopies(actor, page))
