import { defineRoute } from '../access/route'
import { directoryFor } from '../people/directory'

export default defineRoute({}, ({ asker }) => directoryFor(asker))
