import Joi from 'joi'

// The binding's inside is checked by the policy's own schema.
const form = {
  name: Joi.string().trim().min(1).max(120).required().messages({ 'string.empty': 'a list needs a name', 'any.required': 'a list needs a name' }),
  owner: Joi.string().default('organisation'),
  usualSide: Joi.string().valid('allow', 'block').default('block'),
  on: Joi.boolean().default(true),
  binding: Joi.object().unknown(true).allow(null).default(null),
}

export const newListBody = Joi.object({ ...form, entries: Joi.alternatives().try(Joi.string().allow('').max(5_000_000), Joi.array().items(Joi.string().max(320)).max(100_000)).default(''), below: Joi.boolean().default(false) })
export const listBody = Joi.object({ ...form, version: Joi.number().integer().required() })
export const versionQuery = Joi.object({ version: Joi.number().integer().required().messages({ 'any.required': 'say which version you saw: ?version=N' }) })
