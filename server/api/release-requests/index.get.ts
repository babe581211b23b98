import { defineRoute } from '../../access/route'
import { listRequests } from '../../requests/requests'

export default defineRoute({}, ({ actor }) => listRequests(actor))
