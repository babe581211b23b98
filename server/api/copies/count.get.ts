import { Joi } from '#core'
import { copyFilter } from '../../mail/copy-filter'
import { defineRoute } from '../../access/route'
import { countCopies, type CopyFilter } from '../../mail/copies'

export default defineRoute({ query: Joi.object<CopyFilter, true>(copyFilter) }, ({ asker, query }) => countCopies(asker, query))
