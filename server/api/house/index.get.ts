import { defineRoute } from '../../access/route'
import { openHouse } from '../../people/house'

export default defineRoute({}, () => openHouse())
