import { setResponseStatus } from 'h3'
import { Joi } from '#core'
import { defineRoute } from '../access/route'
import { saveOrCheck, type Changing } from '../impact/save-changes'
import { confirmedField, existingField } from '../impact/save-form'
import { changesField, changesOf } from '../policy/changes-form'

const body = Joi.object<Omit<Changing, 'changes' | 'note'> & { changes: unknown[], note?: string }, true>({
  base: Joi.number().integer().min(0).max(2_147_483_647).required(),
  changes: changesField,
  note: Joi.string().trim().max(500),
  coming: Joi.boolean().required(),
  existing: existingField,
  confirmed: confirmedField,
})

export default defineRoute({ body, most: 'changes', version: 'body.base' }, async ({ event, actor, body: { changes, note, ...form } }) => {
  const said = note === undefined ? {} : { note: { kind: 'text' as const, text: note } }
  const done = await saveOrCheck(actor, { ...form, ...said, changes: await changesOf(changes) })
  if ('checking' in done || done.job !== null) setResponseStatus(event, 202)
  return done
})
