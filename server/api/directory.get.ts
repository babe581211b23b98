import { defineRoute } from '../access/route'
import { directoryFor } from '../users/directory'

export default defineRoute({}, ({ actor }) => directoryFor(actor))
