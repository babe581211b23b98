import { getRequestHeader } from 'h3'
import { defineRoute, numberParam } from '../../access/route'
import { withImpactShown } from '../../impact/checked-change'
import { followJob } from '../../jobs/follow'
import { openJob } from '../../jobs/store'

// Whoever takes events is told until it has ended; everybody else how it is now.
export default defineRoute({ params: numberParam }, async ({ event, actor, params: { id } }) =>
  getRequestHeader(event, 'accept')?.includes('text/event-stream')
    ? followJob(event, actor, { id, shown: job => withImpactShown(actor, job) })
    : withImpactShown(actor, await openJob(actor, id)),
)
