import { defineRoute } from '../../access/route'
import { changeHouse } from '../../people/house'
import { houseForm } from '../../people/house-form'

export default defineRoute({ body: houseForm, version: 'body.version' }, ({ asker, body }) => changeHouse(asker, body))
