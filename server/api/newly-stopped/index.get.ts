import { defineRoute } from '../../access/route'
import { newlyStopped } from '../../copies/newly-stopped'

export default defineRoute({}, async ({ actor }) => ({ items: await newlyStopped(actor) }))
