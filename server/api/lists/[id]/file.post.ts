import { ADDS, defineRoute, idParam } from '../../../access/route'
import { addFile } from '../../../policy/entries-file'

export default defineRoute<{ id: string }, unknown, Buffer>(
  { params: idParam, bytes: 'text/csv', version: ADDS },
  ({ asker, params, body }) => addFile(asker, params.id, body.toString('utf8')),
)
