import { defineRoute, numberParam } from '../../access/route'
import { cancelJob } from '../../jobs/store'

export default defineRoute({ params: numberParam }, ({ asker, params }) => cancelJob(asker, params.id))
