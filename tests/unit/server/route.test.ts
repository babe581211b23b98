import { createServer, request } from 'node:http'
import type { AddressInfo } from 'node:net'
import { createApp, createRouter, defineEventHandler, toNodeListener } from 'h3'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { Joi } from '#core'
import { defineRoute } from '../../../server/access/route'

/** What the door is supposed to have granted, by a header of the test. */
const envelopeLists = defineEventHandler((event) => {
  const granted = event.node.req.headers['x-granted']
  if (granted !== undefined) event.context.granted = granted
})
const router = createRouter()
  .get(
    '/api/things/:id',
    defineRoute<{ id: string }>({ params: Joi.object({ id: Joi.string().max(5) }) }, ({ params }) => ({
      id: params.id,
    })),
  )
  .post(
    '/api/things',
    defineRoute<unknown, unknown, { name: string }>(
      { body: Joi.object({ name: Joi.string().max(50).required() }) },
      ({ body }) => body,
    ),
  )
  .post(
    '/api/faults',
    defineRoute({}, () => {
      throw new Error('secret detail')
    }),
  )
  .post(
    '/api/mine',
    defineRoute({}, ({ actor }) => actor),
  )
const server = createServer(toNodeListener(createApp().use(envelopeLists).use(router)))
beforeAll(() => new Promise<void>(done => server.listen(0, '127.0.0.1', done)))
afterAll(() => new Promise(done => server.close(done)))

function call(
  method: string,
  path: string,
  granted?: string,
  { body = '', headers = {} }: { body?: string, headers?: Record<string, string> } = {},
) {
  return new Promise<{ status: number, body: { detail?: string, fields?: object } & Record<string, unknown> }>(
    (resolve, reject) => {
      const { port } = server.address() as AddressInfo
      const sent = request(
        {
          port,
          host: '127.0.0.1',
          method,
          path,
          agent: false,
          headers: {
            ...(granted === undefined ? {} : { 'x-granted': granted }),
            ...(body ? { 'content-length': String(Buffer.byteLength(body)) } : {}),
            ...headers,
          },
        },
        (answer) => {
          let text = ''
          answer
            .on('data', data => (text += String(data)))
            .on('end', () => resolve({ status: answer.statusCode!, body: text ? JSON.parse(text) : {} }))
        },
      )
      sent.on('error', reject).end(body)
    },
  )
}
const json = { 'content-type': 'application/json' }

describe('a route behind the door: one that was not granted would run', () => {
  it.each([
    [undefined, 404],
    ['GET /api/things', 404],
    ['POST /api/things/:id', 404],
    ['GET /api/things/7', 404],
    ['GET /api/:id', 404],
    ['GET /api/things/:id', 200],
  ])('granted %s: %s', async (granted, status) =>
    expect((await call('GET', '/api/things/7', granted)).status).toBe(status),
  )
  it('nor where the router reads another path than the door did', async () => {
    // The router decodes; whatever the door thought that this is, it is not what runs.
    expect((await call('GET', '/%61pi/things/7', 'GET /%61pi/things/:id')).status).toBe(404)
  })
  it('answers what is wrong with parameters by 400, with a form by 422, and by a field’s name', async () => {
    expect(await call('GET', '/api/things/toolong', 'GET /api/things/:id')).toMatchObject({
      status: 400,
      body: { fields: { id: expect.any(String) } },
    })
    expect(await call('POST', '/api/things', 'POST /api/things', { body: '{}', headers: json })).toMatchObject({
      status: 422,
      body: { fields: { name: expect.any(String) } },
    })
    expect(await call('POST', '/api/things', 'POST /api/things', { body: '{"name":"\\u0000"}', headers: json })).toMatchObject({
      status: 400,
      body: { fields: { name: expect.stringContaining('U+0000') } },
    })
    expect(await call('POST', '/api/things', 'POST /api/things', { body: '{"name":"x"}', headers: json })).toEqual({
      status: 200,
      body: { name: 'x' },
    })
  })
  it('a fault is said to be one, and no more; whoever is nobody is nobody’s asker', async () => {
    const fault = await call('POST', '/api/faults', 'POST /api/faults')
    expect([fault.status, JSON.stringify(fault.body).includes('secret')]).toEqual([500, false])
    expect((await call('POST', '/api/mine', 'POST /api/mine')).status).toBe(403)
  })
})
