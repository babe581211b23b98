import { Joi } from '#core'
import { copyFilter } from '../../http/copy-filter'
import { defineRoute } from '../../http/route'
import { countCopies, type CopyFilter } from '../../services/copies'

export default defineRoute<unknown, CopyFilter>({ query: Joi.object(copyFilter) }, ({ asker, query }) => countCopies(asker, query))
