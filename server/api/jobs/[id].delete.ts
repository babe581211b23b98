import { defineRoute, numberParam } from '../../access/route'
import { cancelJob } from '../../jobs/store'

export default defineRoute<{ id: number }>({ params: numberParam }, ({ asker, params }) => cancelJob(asker, params.id))
