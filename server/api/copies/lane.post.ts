import { Joi } from '#core'
import { manyCopies } from '../../platform/many'
import { defineRoute } from '../../access/route'
import { moveCopies, type Move } from '../../mail/moves'

const body = Joi.object({
  ...manyCopies,
  lane: Joi.string().valid('inbox', 'slow lane', 'spam', 'quarantine', 'bin').required(),
  quarantine: Joi.string().max(80),
  ownPlaces: Joi.boolean(),
})

export default defineRoute<unknown, unknown, Move & { ids: number[] }>({ body }, ({ asker, body: { ids, ...move } }) =>
  moveCopies(asker, ids, move),
)
