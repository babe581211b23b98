import { Joi } from '#core'
import { manyCopies } from '../../platform/many'
import { defineRoute } from '../../access/route'
import { moveCopies, type MoveLane } from '../../mail/moves'

const body = Joi.object({
  ...manyCopies,
  lane: Joi.string().valid('inbox', 'slow lane', 'spam', 'quarantine', 'bin').required(),
  quarantine: Joi.string().max(80),
  ownPlaces: Joi.boolean(),
})

export default defineRoute<
  unknown,
  unknown,
  { ids: number[], versions?: Record<string, number>, lane: MoveLane, quarantine?: string, ownPlaces?: boolean }
>({ body }, ({ asker, body: b }) => moveCopies(asker, b.ids, b.lane, b.quarantine ?? null, b.versions, b.ownPlaces))
