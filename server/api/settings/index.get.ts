import { defineRoute } from '../../access/route'
import { openHouse } from '../../users/settings'

export default defineRoute({}, () => openHouse())
