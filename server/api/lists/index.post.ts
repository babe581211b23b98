import { setResponseStatus } from 'h3'
import { newListBody } from '../../policy/list-form'
import { ADDS, defineRoute } from '../../access/route'
import { makeList } from '../../policy/lists'

export default defineRoute({ most: 'large', body: newListBody, version: ADDS }, async ({ event, actor, body }) => {
  const made = await makeList(actor, body)
  setResponseStatus(event, 201)
  return made
})
