import { defineRoute } from '../../access/route'
import { countUnverified } from '../../intake/stored-senders'

/** How much mail could be verified now. */
export default defineRoute({}, () => countUnverified())
