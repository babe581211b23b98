import { defineRoute } from '../../access/route'
import { marksOf } from '../../copies/copy-conditions'

export default defineRoute({}, ({ asker }) => marksOf(asker))
