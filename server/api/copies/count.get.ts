import { Joi } from '#core'
import { copyFilter } from '../../copies/copy-filter'
import { defineRoute } from '../../access/route'
import { countCopies } from '../../copies/copies'
import type { CopyFilter } from '../../copies/copy-conditions'

export default defineRoute({ query: Joi.object<CopyFilter, true>(copyFilter) }, ({ actor, query }) => countCopies(actor, query))
