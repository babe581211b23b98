import { defineRoute, numberParam } from '../../../access/route'
import { undoEvent } from '../../../audit/undo'

const version = { none: 'what the event left is compared with what is there by now, under the lock' }

export default defineRoute({ params: numberParam, version }, ({ actor, params }) => undoEvent(actor, params.id))
