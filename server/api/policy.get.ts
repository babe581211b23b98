import { defineRoute } from '../access/route'
import { readablePolicy } from '../people/directory'

export default defineRoute({}, ({ asker }) => readablePolicy(asker))
