import { setResponseStatus } from 'h3'
import { Joi } from '#core'
import { manyCopies, withVersions } from '../../platform/many'
import { defineRoute } from '../../access/route'
import { manyQuery } from '../../copies/copy-filter'
import type { Versions } from '../../copies/locked-copies'
import { beginMany, type ManyQuery } from '../../copies/many-job'
import { markCopies } from '../../copies/judgements'

type Value = 'wanted' | 'unwanted' | null
interface Form {
  ids?: number[]
  versions?: Versions
  query?: ManyQuery
  value?: Value
  judgement?: Value
}
const value = Joi.string().valid('wanted', 'unwanted', null)
const body = withVersions(
  Joi.object<Form, true>({ ...manyCopies, query: manyQuery, value, judgement: value }).xor('value', 'judgement').xor('ids', 'query'),
)

export default defineRoute({ body, version: 'body.versions' }, ({ event, actor, body: { ids, query, versions, value, judgement } }) => {
  const said = value ?? judgement ?? null
  if (!query) return markCopies(actor, ids!, said, versions!)
  setResponseStatus(event, 202)
  return beginMany(actor, query, { value: said })
})
