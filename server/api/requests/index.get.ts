import { defineRoute } from '../../access/route'
import { listRequests } from '../../mail/requests'

export default defineRoute({}, ({ asker }) => listRequests(asker))
