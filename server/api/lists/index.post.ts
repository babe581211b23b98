import { setResponseStatus } from 'h3'
import { newListBody } from '../../policy/list-form'
import { defineRoute } from '../../access/route'
import { makeList, type NewList } from '../../policy/lists'

export default defineRoute<unknown, unknown, NewList>({ body: newListBody }, async ({ event, asker, body }) => {
  const made = await makeList(asker, body)
  setResponseStatus(event, 201)
  return made
})
