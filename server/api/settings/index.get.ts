import { defineRoute } from '../../access/route'
import { openSettings } from '../../users/settings'

export default defineRoute({}, () => openSettings())
