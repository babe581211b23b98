import type { CustomHelpers, ErrorReport } from 'joi'
import { Joi } from '#core'
import { MIN_PASSWORD } from '#core/limits'
import { ROLES } from '../access/roles'
import { seenVersion } from '../platform/version-field'

function notBlanks(text: string, helpers: CustomHelpers<string>): string | ErrorReport {
  return text.replace(/\s/g, '').length >= MIN_PASSWORD
    ? text
    : helpers.message({ custom: `a password needs at least ${MIN_PASSWORD} characters, not counting spaces` })
}

export const emailField = Joi.string()
  .trim()
  .max(320)
  .email({ tlds: false, allowUnicode: true })
  .messages({ 'string.email': 'write it as name@domain', 'string.empty': 'enter an address' })

/** A password that somebody chooses. */
export const passwordField = Joi.string()
  .min(MIN_PASSWORD)
  .max(1000)
  .custom(notBlanks)
  .messages({
    'string.min': `a password needs at least ${MIN_PASSWORD} characters, not counting spaces`,
    'string.empty': 'enter a password',
  })

export const nameField = Joi.string().trim().min(1).max(120).messages({ 'string.empty': 'enter a name' })
export const roleField = Joi.string().valid(...ROLES)
export const userVersionField = seenVersion('the user')
