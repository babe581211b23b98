import { defineRoute, numberParam } from '../../access/route'
import { cancelJob } from '../../jobs/store'

const version = { none: 'a job is stopped wherever it is' }

export default defineRoute({ params: numberParam, version }, ({ actor, params }) => cancelJob(actor, params.id))
