import { Joi } from '#core'

/** The version in which somebody saw what they change. @param what it is, with its article */
export const seenVersion = (what: string) =>
  Joi.number()
    .integer()
    .min(0)
    .max(2_147_483_647)
    .required()
    .messages({ 'any.required': `say in which version you saw ${what}` })
