import { defineRoute } from '../../access/route'
import { changeHouse } from '../../users/settings'
import { houseForm } from '../../users/settings-form'

export default defineRoute({ body: houseForm, version: 'body.version' }, ({ asker, body }) => changeHouse(asker, body))
