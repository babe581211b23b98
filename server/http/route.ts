import { defineEventHandler, getQuery, getRouterParams, readBody, setResponseHeaders, setResponseStatus, type EventHandlerRequest, type H3Event } from 'h3'
import Joi, { type Schema } from 'joi'
import { isDatabaseAway } from '../db/client'
import { checked } from '../services/checked'
import { log } from '../services/log'
import type { Asker } from '../services/people'
import { notAllowed, Problem } from '../services/problem'

interface Shapes {
  params?: Schema
  query?: Schema
  body?: Schema
}

export interface Call<Params, Query, Body> {
  event: H3Event<EventHandlerRequest>
  params: Params
  query: Query
  body: Body
  /** Who is asking; only on routes that are not for everybody. */
  asker: Asker
}

/**
 * One route: checks parameters, query and body, calls, and answers errors as problem documents (RFC 9457). Who may call
 * it is in access.ts.
 */
export function defineRoute<Params = unknown, Query = unknown, Body = unknown>(shapes: Shapes, answer: (call: Call<Params, Query, Body>) => unknown) {
  return defineEventHandler(async (event) => {
    try {
      return await answer({
        event,
        params: checked<Params>(shapes.params ?? Joi.any(), getRouterParams(event)),
        query: checked<Query>(shapes.query ?? Joi.object({}).unknown(true), getQuery(event)),
        body: shapes.body ? checked<Body>(shapes.body.required().label('the body'), await readBody(event)) : undefined as Body,
        get asker(): Asker {
          const { asker } = event.context as { asker?: Asker }
          if (!asker) throw notAllowed('Sign in first.')
          return asker
        },
      })
    }
    catch (error) {
      return answerProblem(event, problemOf(error))
    }
  })
}

/** Any error as a problem: what is not ours to explain is logged and said to be a fault of ours. */
export function problemOf(error: unknown): Problem {
  if (error instanceof Problem) return error
  if (isDatabaseAway(error)) return new Problem(503, 'The store cannot be reached', 'The database does not answer just now. Nothing was changed; try again in a moment.', {}, { 'retry-after': '5' })
  const status = (error as { statusCode?: number }).statusCode
  if (status === 400) return new Problem(400, 'Not understood', 'The body is not valid JSON. Send JSON with the header content-type: application/json.')
  if (status === 413) return new Problem(413, 'Too large', 'The body is larger than what is taken here.')
  log.error({ error: error instanceof Error ? error.stack : String(error) }, 'a request failed')
  return new Problem(500, 'A fault of ours', 'Something went wrong here that should not. It is in the log; nothing was changed.')
}

/** Answers with a problem document. */
export function answerProblem(event: H3Event, problem: Problem) {
  setResponseStatus(event, problem.status)
  setResponseHeaders(event, { 'content-type': 'application/problem+json', ...problem.headers })
  return JSON.stringify({ type: 'about:blank', title: problem.title, status: problem.status, detail: problem.detail, ...(Object.keys(problem.fields).length ? { fields: problem.fields } : {}) })
}

export const idParam = Joi.object({ id: Joi.string().max(80).required() })
export const numberParam = Joi.object({ id: Joi.number().integer().positive().max(Number.MAX_SAFE_INTEGER).required().messages({ 'number.base': 'the number of a message or an act is expected here' }) })
