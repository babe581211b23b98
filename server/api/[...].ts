import { getRequestURL } from 'h3'
import { defineRoute } from '../access/route'
import { notFound } from '../platform/problem'

export default defineRoute({}, ({ event }) => {
  throw notFound(`The page ${getRequestURL(event).pathname}`)
})
