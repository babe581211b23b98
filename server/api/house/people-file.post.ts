import { defineRoute } from '../../access/route'
import { readPeopleCsv } from '../../people/people-csv'

export default defineRoute<unknown, unknown, Buffer>(
  { bytes: 'text/csv' },
  ({ asker, body }) => readPeopleCsv(asker, body.toString('utf8')),
)
