import { defineRoute } from '../../access/route'
import { listEvents } from '../../audit/list'
import { eventQuery } from '../../audit/query'

export default defineRoute({ query: eventQuery }, ({ actor, query }) => listEvents(actor, query))
