import { defineRoute } from '../access/route'
import { readablePolicy } from '../users/directory'

export default defineRoute({}, ({ actor }) => readablePolicy(actor))
