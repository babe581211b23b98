import { Readable } from 'node:stream'
import { setResponseHeaders } from 'h3'
import { Joi } from '#core'
import { currentList } from '../../../access/list-access'
import { defineRoute, idParam } from '../../../access/route'
import { entriesFile } from '../../../policy/entries-file'

const query = Joi.object<{ as: 'csv' | 'lines' }, true>({ as: Joi.string().valid('csv', 'lines').default('csv') })

export default defineRoute({ params: idParam, query }, async ({ event, actor, params, query: { as } }) => {
  // Asked before anything of it is sent.
  await currentList(actor, params.id)
  setResponseHeaders(event, {
    'content-type': as === 'csv' ? 'text/csv; charset=utf-8; header=present' : 'text/plain; charset=utf-8',
    'content-disposition': `attachment; filename="list.${as === 'csv' ? 'csv' : 'txt'}"`,
  })
  return Readable.from(entriesFile(actor, params.id, as))
})
