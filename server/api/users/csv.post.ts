import { Joi } from '#core'
import { defineRoute } from '../../access/route'
import { importUserCsv, previewUserCsv } from '../../users/csv-import'

const query = Joi.object<{ dry?: boolean, version?: string }, true>({
  // Only told what the file would do, and in which version of the users that was computed.
  dry: Joi.boolean().valid(true),
  version: Joi.string().max(64).messages({ 'string.base': 'name the version of the report that you read: ?version=…' }),
})
  .xor('dry', 'version')
  .messages({
    'object.missing': 'first ask what the file would do, by ?dry=true; then import it by the version of that report, ?version=…',
  })

export default defineRoute<unknown, { dry?: boolean, version?: string }, Buffer>(
  { query, bytes: 'text/csv', version: 'query.version' },
  ({ actor, body, query: { version } }) => {
    const text = body.toString('utf8')
    return version === undefined ? previewUserCsv(actor, text) : importUserCsv(actor, text, version)
  },
)
