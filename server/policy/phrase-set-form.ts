import { Joi } from '#core'

/** What a form sends; what may stand in it, the policy's own schema says. */
export const phraseSetForm = {
  name: Joi.any(),
  owner: Joi.string().max(100).default('organisation'),
  phrases: Joi.array()
    .min(1)
    .max(5000)
    .required()
    .messages({
      'array.max': 'a phrase set can have at most 5,000 phrases',
      'array.min': 'enter at least one phrase',
      'any.required': 'enter at least one phrase',
    }),
  minimum: Joi.any(),
}
