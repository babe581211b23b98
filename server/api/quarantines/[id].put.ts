import { Joi } from '#core'
import { defineRoute, idParam } from '../../access/route'
import { setQuarantine, type QuarantineSettings } from '../../policy/quarantine-settings'
import { quarantineName, renameQuarantine } from '../../policy/quarantines'

const person = Joi.string().max(80)
const DAYS = 'write a number of days, from 1 to 365, or nothing'
const body = Joi.object<Partial<QuarantineSettings> & { name?: string }, true>({
  name: quarantineName.optional(),
  reviewers: Joi.array().items(person).max(200),
  deputy: person.allow(null),
  waitDays: Joi.number()
    .integer()
    .min(1)
    .max(365)
    .allow(null)
    .messages({ 'number.base': DAYS, 'number.min': DAYS, 'number.max': DAYS, 'number.integer': DAYS }),
  afterWait: Joi.string().valid('reject', 'bin', 'release'),
  seen: Joi.boolean(),
  told: Joi.boolean(),
  mayAsk: Joi.boolean(),
  mayRelease: Joi.boolean(),
}).min(1)

// Its name is the policy's; all else is settled by the house. Each is an act of its own.
export default defineRoute({ params: idParam, body }, async ({ asker, params: { id }, body: { name, ...settings } }) => {
  const renamed = name === undefined ? null : await renameQuarantine(asker, id, name)
  if (!Object.keys(settings).length) return { id, ...renamed }
  const set = await setQuarantine(asker, id, settings)
  return { id, ...renamed, ...set }
})
