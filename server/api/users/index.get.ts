import { Joi } from '#core'
import { defineRoute } from '../../access/route'
import { listMembers, type MemberQuery } from '../../users/members'

const query = Joi.object<MemberQuery, true>({
  words: Joi.string().trim().allow('').max(200),
  after: Joi.string().max(500),
  limit: Joi.number().integer().min(1).max(200).default(50),
})

export default defineRoute({ query }, ({ query: asked }) => listMembers(asked))
