import { setResponseStatus } from 'h3'
import { newListBody } from '../../http/list-form'
import { defineRoute } from '../../http/route'
import { makeList, type ListForm } from '../../services/lists'

export default defineRoute<unknown, unknown, ListForm & { entries: string | string[], below: boolean }>({ body: newListBody }, async ({ event, asker, body: { entries, below, ...form } }) => {
  const made = await makeList(asker, form, Array.isArray(entries) ? entries.join('\n') : entries, below)
  setResponseStatus(event, 201)
  return made
})
