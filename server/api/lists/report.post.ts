import { COMPUTES, defineRoute } from '../../access/route'
import { reportOfNew } from '../../policy/list-entries'
import { newListPasteBody } from '../../policy/list-form'

export default defineRoute({ most: 'large', body: newListPasteBody, version: COMPUTES }, ({ actor, body }) => reportOfNew(actor, body))
