import { defineRoute } from '../http/route'
import { directoryFor } from '../services/directory'

export default defineRoute({}, ({ asker }) => directoryFor(asker))
