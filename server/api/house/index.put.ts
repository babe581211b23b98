import { defineRoute } from '../../access/route'
import { changeHouse } from '../../people/house'
import { houseForm } from '../../people/house-form'

export default defineRoute({ body: houseForm }, ({ asker, body }) => changeHouse(asker, body))
