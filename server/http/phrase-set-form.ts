import Joi from 'joi'

const phrase = Joi.string().trim().min(1).max(300)
export const phraseSetForm = {
  name: Joi.string().trim().min(1).max(120).required().messages({ 'string.empty': 'a phrase set needs a name', 'any.required': 'a phrase set needs a name' }),
  owner: Joi.string().default('organisation'),
  phrases: Joi.array().items(Joi.alternatives().try(phrase, Joi.object({ text: phrase.required(), weight: Joi.number().min(0).max(1000), near: Joi.object({ phrases: Joi.array().items(phrase).min(1).required(), within: Joi.number().integer().min(0).max(1000) }) }))).min(1).max(5000).required().messages({ 'array.min': 'write at least one phrase' }),
  minimum: Joi.number().greater(0).max(1_000_000),
}
