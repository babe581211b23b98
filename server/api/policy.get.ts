import { defineRoute } from '../http/route'
import { readablePolicy } from '../services/directory'

export default defineRoute({}, ({ asker }) => readablePolicy(asker))
