import { Joi } from '#core'

/** The version that the caller saw of what the request changes. @param what its name for the error message, with its article */
export const seenVersion = (what: string) =>
  Joi.number()
    .integer()
    .min(0)
    .max(2_147_483_647)
    .required()
    .messages({ 'any.required': `give the version of ${what} that you read` })
