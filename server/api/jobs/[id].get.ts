import { getRequestHeader } from 'h3'
import { defineRoute, numberParam } from '../../access/route'
import { followJob } from '../../jobs/follow'
import { openJob } from '../../jobs/store'

// Whoever takes events is told until it has ended; everybody else how it is now.
export default defineRoute({ params: numberParam }, ({ event, actor, params }) =>
  getRequestHeader(event, 'accept')?.includes('text/event-stream') ? followJob(event, actor, params.id) : openJob(actor, params.id),
)
