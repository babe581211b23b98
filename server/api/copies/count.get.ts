import { Joi } from '#core'
import { copyFilter } from '../../mail/copy-filter'
import { defineRoute } from '../../access/route'
import { countCopies } from '../../mail/copies'
import type { CopyFilter } from '../../mail/copy-conditions'

export default defineRoute({ query: Joi.object<CopyFilter, true>(copyFilter) }, ({ asker, query }) => countCopies(asker, query))
