import { defineRoute } from '../../access/route'
import { marksOf } from '../../mail/copy-conditions'

export default defineRoute({}, ({ asker }) => marksOf(asker))
