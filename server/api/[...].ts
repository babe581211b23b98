import { getRequestURL } from 'h3'
import { defineRoute } from '../http/route'
import { notFound } from '../services/problem'

export default defineRoute({}, ({ event }) => {
  throw notFound(`page ${getRequestURL(event).pathname}`)
})
