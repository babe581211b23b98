import { defineRoute } from '../../access/route'
import { labelsOf } from '../../copies/copy-conditions'

export default defineRoute({}, ({ actor }) => labelsOf(actor))
