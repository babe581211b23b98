import { setResponseStatus } from 'h3'
import { newListBody } from '../../http/list-form'
import { defineRoute } from '../../http/route'
import { makeList, type NewList } from '../../services/lists'

export default defineRoute<unknown, unknown, NewList>({ body: newListBody }, async ({ event, asker, body }) => {
  const made = await makeList(asker, body)
  setResponseStatus(event, 201)
  return made
})
