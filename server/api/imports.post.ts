import { readRawBody } from 'h3'
import Joi from 'joi'
import { MOST_BYTES } from '../intake/smtp'
import { defineRoute } from '../http/route'
import { importMessage } from '../services/imports'
import { Problem } from '../services/problem'

const query = Joi.object({ recipient: Joi.string().trim().max(320) })

export default defineRoute<unknown, { recipient?: string }>({ query }, async ({ event, query: { recipient } }) => {
  const declared = Number(event.node.req.headers['content-length'] ?? 0)
  if (declared > MOST_BYTES) throw new Problem(413, 'Too large', `The message is larger than ${MOST_BYTES / 1024 / 1024} MB, which is the most that is taken here.`)
  const body = await readRawBody(event, false) ?? Buffer.alloc(0)
  if (body.length > MOST_BYTES) throw new Problem(413, 'Too large', `The message is larger than ${MOST_BYTES / 1024 / 1024} MB, which is the most that is taken here.`)
  const { copies, receivedAt } = await importMessage(body, recipient)
  return { receivedAt, copies: copies.map(c => ({ id: c.copyId, recipient: c.recipient, lane: c.lane, repeat: c.repeat })) }
})
