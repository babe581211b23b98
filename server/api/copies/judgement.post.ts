import { Joi } from '#core'
import { manyCopies } from '../../http/many'
import { defineRoute } from '../../http/route'
import { judgeCopies } from '../../services/moves'

type Value = 'wanted' | 'unwanted' | null
const value = Joi.string().valid('wanted', 'unwanted', null)
const body = Joi.object({ ...manyCopies, value, judgement: value }).xor('value', 'judgement')

export default defineRoute<unknown, unknown, { ids: number[], versions?: Record<string, number>, value?: Value, judgement?: Value }>(
  { body },
  ({ asker, body: b }) => judgeCopies(asker, b.ids, b.value ?? b.judgement ?? null, b.versions),
)
