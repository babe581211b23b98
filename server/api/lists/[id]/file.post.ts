import { ADDS, defineRoute, idParam } from '../../../access/route'
import { addFile } from '../../../policy/entries-file'

export default defineRoute<{ id: string }, unknown, Buffer>(
  { params: idParam, bytes: 'text/csv', version: ADDS },
  ({ actor, params, body }) => addFile(actor, params.id, body.toString('utf8')),
)
