import {
  defineEventHandler,
  getQuery,
  getRouterParams,
  setResponseHeaders,
  setResponseStatus,
  type EventHandlerRequest,
  type H3Event,
} from 'h3'
import type { Schema } from 'joi'
import { Joi } from '#core'
import { isDatabaseAway, isDeadlock } from '../db/client'
import { CallerLeft, whileCallerStays } from '../platform/caller'
import { checked } from '../platform/checked'
import { faultText, log, tellOfDatabase } from '../platform/log'
import { can, type Actor } from './roles'
import { notAllowed, Problem } from '../platform/problem'
import { databaseNote } from '../platform/readiness'
import { requestSlots } from '../platform/slots'
import { isGranted } from './routes'
import { routeFaults, type SeenVersion } from './route-checks'
import { letBodyGo, MAX_BODY, mediaType, mustBeOfType, readBytes, readJson, type BodySize } from '../platform/body'

/** What a call looks like. What the schemas are of, the answer is given. */
interface Shapes<Params, Query, Body> {
  params?: Schema<Params>
  query?: Schema<Query>
  /** What a body of JSON looks like. */
  body?: Schema<Body>
  /** How large a body of JSON may be; “usual” unless said. */
  most?: BodySize
  /** The media type of a body that is taken as it is. */
  bytes?: string
  /** Where a write has the version that its caller saw, or why it needs none. Without it, the server does not start. */
  version?: SeenVersion
}

export interface Call<Params, Query, Body> {
  event: H3Event<EventHandlerRequest>
  params: Params
  query: Query
  body: Body
  /** Who is asking; only on routes that are not for everybody. */
  actor: Actor
}

/**
 * One route: makes sure that it is the one that was granted, checks parameters, query and body, calls, and answers errors as
 * problem documents (RFC 9457). Who may call it is in routes.ts.
 * @throws where a schema leaves an array or a string without a bound, or lacks the version that the route names
 */
export function defineRoute<Params = unknown, Query = unknown, Body = unknown>(
  shapes: Shapes<Params, Query, Body>,
  answer: (call: Call<Params, Query, Body>) => unknown,
) {
  const faults = routeFaults(shapes, shapes.version)
  if (faults.length) throw new Error(`This route cannot be served: ${faults.join('; ')}`)
  const handler = defineEventHandler(async (event) => {
    try {
      if (!isGranted(event.context.granted, event.method, event.context.matchedRoute?.path))
        throw new Problem(404, 'Not found', 'Nothing exists at this path.')
      const { actor } = event.context as { actor?: Actor }
      const run = async () =>
        answer({
          event,
          params: checked<Params>(shapes.params ?? Joi.any(), getRouterParams(event), { status: 400 }),
          query: checked<Query>(shapes.query ?? Joi.any(), getQuery(event), { status: 400 }),
          body: (await bodyOf(event, shapes, mostFor(actor, shapes.bytes ? 'large' : (shapes.most ?? 'usual')))) as Body,
          get actor(): Actor {
            if (!actor) throw notAllowed('Sign in first.')
            return actor
          },
        })
      return await whileCallerStays(event.node.res, () => (actor ? requestSlots.take(actor.id, run) : run()))
    }
    catch (error) {
      // Nobody is there to be answered.
      if (error instanceof CallerLeft) return null
      return answerProblem(event, problemOf(error))
    }
  })
  return Object.assign(handler, { shapes })
}

function mostFor(actor: Actor | undefined, size: BodySize): number {
  if (!actor) return MAX_BODY.anybody
  return can(actor, 'use large limits') ? MAX_BODY[size] : MAX_BODY.usual
}

async function bodyOf<Body>(event: H3Event, { body, bytes }: Shapes<unknown, unknown, Body>, most: number): Promise<unknown> {
  if (bytes) {
    mustBeOfType(event, bytes)
    return readBytes(event, most)
  }
  if (body) return checked(body.required().label('the body'), await readJson(event, most))
  // Nothing is expected; a form on somebody's page sends its type all the same, and is told.
  if (event.method !== 'GET' && mediaType(event)) mustBeOfType(event, 'application/json')
  return undefined
}

/** The database is out of reach, and why, as far as it is known. */
export function databaseAway(): Problem {
  const note = databaseNote()
  const what = note?.why ?? 'The database does not answer.'
  return new Problem(503, 'The database cannot be reached', `${what} Nothing was changed. Try again in a moment.`, {
    headers: { 'retry-after': '5' },
  })
}

/** Any error as a problem: what is not ours to explain is logged and said to be a fault of ours. */
export function problemOf(error: unknown): Problem {
  if (error instanceof Problem) return error
  if (isDatabaseAway(error)) {
    tellOfDatabase(error)
    return databaseAway()
  }
  if (isDeadlock(error)) {
    log.warn({ error: faultText(error) }, 'two requests waited for each other')
    return new Problem(409, 'Changed at the same time', 'Someone else changed the same at the same time. Nothing was saved. Try again.')
  }
  log.error({ error: faultText(error) }, 'a request failed')
  return new Problem(500, 'Internal error', 'An internal error occurred. Nothing was changed. The server log has the details.')
}

/** Answers with a problem document. */
export async function answerProblem(event: H3Event, problem: Problem): Promise<string> {
  await letBodyGo(event)
  setResponseStatus(event, problem.status)
  setResponseHeaders(event, { 'content-type': 'application/problem+json', ...problem.headers })
  return JSON.stringify({
    ...problem.more,
    type: problem.type,
    title: problem.title,
    status: problem.status,
    detail: problem.detail,
    ...(Object.keys(problem.fields).length ? { fields: problem.fields } : {}),
  })
}

export const idParam = Joi.object<{ id: string }, true>({ id: Joi.string().max(80).required() })
export const numberParam = Joi.object<{ id: number }, true>({
  id: Joi.number()
    .integer()
    .positive()
    .max(Number.MAX_SAFE_INTEGER)
    .required()
    .messages({ 'number.base': 'a number is expected here' }),
})

/** Why a write needs no version: it is none. */
export const COMPUTES: SeenVersion = { none: 'it computes, and writes nothing' }
/** Why a write needs no version: what it makes was not there. */
export const ADDS: SeenVersion = { none: 'it adds, and changes nothing that is there' }
