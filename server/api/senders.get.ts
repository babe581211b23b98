import { Joi } from '#core'
import { defineRoute } from '../access/route'
import { knownSenders, SENDER_KINDS, type SendersAsked } from '../copies/known-senders'

const query = Joi.object<SendersAsked, true>({
  words: Joi.string().trim().allow('').max(200).default(''),
  kinds: Joi.array().items(Joi.string().valid(...SENDER_KINDS)).single().min(1).max(SENDER_KINDS.length).default([...SENDER_KINDS]),
  limit: Joi.number().integer().min(1).max(100).default(20),
})

export default defineRoute({ query }, async ({ actor, query: asked }) => ({ items: await knownSenders(actor, asked) }))
