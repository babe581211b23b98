import { defineRoute } from '../../access/route'
import { verifyStoredMail } from '../../intake/stored-senders'

/** Begins to verify the senders of mail that is here. */
export default defineRoute({ version: { none: 'it changes nothing that the caller saw' } }, ({ actor }) => verifyStoredMail(actor.id))
