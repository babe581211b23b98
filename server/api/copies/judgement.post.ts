import { Joi } from '#core'
import { manyCopies } from '../../platform/many'
import { defineRoute } from '../../access/route'
import { judgeCopies } from '../../mail/moves'

type Value = 'wanted' | 'unwanted' | null
const value = Joi.string().valid('wanted', 'unwanted', null)
const body = Joi.object<{ ids: number[], versions?: Record<string, number>, value?: Value, judgement?: Value }, true>({ ...manyCopies, value, judgement: value }).xor('value', 'judgement')

export default defineRoute(
  { body },
  ({ asker, body: b }) => judgeCopies(asker, b.ids, b.value ?? b.judgement ?? null, b.versions),
)
