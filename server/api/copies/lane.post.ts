import { Joi, KEPT_LANES } from '#core'
import { manyCopies } from '../../platform/many'
import { defineRoute } from '../../access/route'
import { moveCopies, type Move } from '../../mail/moves'

const body = Joi.object<Move & { ids: number[] }, true>({
  ...manyCopies,
  lane: Joi.string()
    .valid(...KEPT_LANES)
    .required(),
  quarantine: Joi.string().max(80),
  ownPlaces: Joi.boolean(),
})

export default defineRoute({ body }, ({ asker, body: { ids, ...move } }) =>
  moveCopies(asker, ids, move),
)
