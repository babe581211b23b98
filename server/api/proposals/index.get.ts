import { defineRoute } from '../../access/route'
import { listProposals } from '../../mail/proposals'

export default defineRoute({}, ({ asker }) => listProposals(asker))
