import { Joi } from '#core'
import { seenVersion } from '../platform/version-field'
import type { QuarantineSettings } from './quarantine-settings'
import { quarantineName } from './quarantines'

const person = Joi.string().max(80)
const DAYS = 'enter a number of days from 1 to 365, or leave the field empty'
export const quarantineVersionField = seenVersion('the quarantine')
const settings = {
  reviewers: Joi.array().items(person).max(200),
  deputy: person.allow(null),
  waitDays: Joi.number()
    .integer()
    .min(1)
    .max(365)
    .allow(null)
    .messages({ 'number.base': DAYS, 'number.min': DAYS, 'number.max': DAYS, 'number.integer': DAYS }),
  afterWait: Joi.string().valid('bin', 'release'),
  visible: Joi.boolean(),
  notified: Joi.boolean(),
  canRequest: Joi.boolean(),
  canRelease: Joi.boolean(),
}

/** A quarantine's settings, or another name; its name is the policy's, so each is an event of its own. */
export const quarantineForm = Joi.object<Partial<QuarantineSettings> & { name?: string, version: number }, true>({
  version: quarantineVersionField,
  name: quarantineName.optional(),
  ...settings,
})
  .or('name', ...Object.keys(settings))
  .without('name', Object.keys(settings))
  .messages({ 'object.without': 'change the name, or the settings: one at a time' })
