import Joi from 'joi'
import { defineRoute } from '../../http/route'
import { listCopies, type CopyFilter } from '../../services/copies'

const lane = Joi.string().valid('inbox', 'slow lane', 'spam', 'quarantine', 'bin', 'refused', 'dropped')
const query = Joi.object({
  words: Joi.string().allow('').max(500),
  lane: Joi.array().items(lane).single(),
  quarantine: Joi.string().allow('').max(80),
  sender: Joi.string().trim().allow('').max(320),
  recipient: Joi.string().trim().allow('').max(320),
  judgement: Joi.string().valid('wanted', 'unwanted', 'unjudged'),
  touchedBy: Joi.string().max(80),
  after: Joi.date().iso(),
  before: Joi.date().iso(),
  cursor: Joi.string().max(200),
  limit: Joi.number().integer().min(1).max(200).default(50),
})

export default defineRoute<unknown, CopyFilter>({ query }, ({ asker, query: filter }) => listCopies(asker, filter))
