import { setResponseHeaders } from 'h3'
import { defineRoute } from '../../access/route'
import { usersAsCsv } from '../../users/csv-import'

export default defineRoute({}, ({ event }) => {
  setResponseHeaders(event, {
    'content-type': 'text/csv; charset=utf-8; header=present',
    'content-disposition': 'attachment; filename="users.csv"',
  })
  return usersAsCsv()
})
