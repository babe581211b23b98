import { setResponseStatus } from 'h3'
import { Joi, KEPT_LANES } from '#core'
import { confirmed, manyCopies, withVersions } from '../../platform/many'
import { defineRoute } from '../../access/route'
import { manyQuery } from '../../copies/copy-filter'
import { beginMany, type ManyQuery } from '../../copies/many-job'
import { moveCopies, type Move } from '../../copies/moves'

const body = withVersions(Joi.object<Move & { ids?: number[], query?: ManyQuery }, true>({
  ...manyCopies,
  query: manyQuery,
  lane: Joi.string()
    .valid(...KEPT_LANES)
    .required(),
  quarantine: Joi.string().max(80),
  ownPlaces: Joi.boolean(),
  // Said of them in the same event, and why it is rejected.
  mark: Joi.string().valid('wanted', 'unwanted'),
  reason: Joi.string().trim().allow('').max(500),
  confirmed,
}).xor('ids', 'query').without('query', ['mark', 'reason']))

export default defineRoute({ body, version: 'body.versions' }, ({ event, actor, body: { ids, query, ...move } }) => {
  if (!query) return moveCopies(actor, ids!, move)
  setResponseStatus(event, 202)
  const { versions: _, ...action } = move
  return beginMany(actor, query, action)
})
