// Whatever a request may hold without a bound, somebody sends until everybody else waits.
import { readdirSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { Joi } from '#core'
import { CHANGE_SCHEMAS } from '#core/change'
import { defineRoute } from '../../../server/access/route'
import { unboundedIn, writesWithoutVersion, type RouteSchemas, type SeenVersion } from '../../../server/access/route-checks'
import { ACCESS } from '../../../server/access/routes'

interface Route { default: { shapes?: RouteSchemas & { version?: SeenVersion } } }
const FOLDER = new URL('../../../server/api/', import.meta.url).pathname
const FILES = readdirSync(FOLDER, { recursive: true, encoding: 'utf8' }).filter(f => f.endsWith('.ts'))
const ROUTES = await Promise.all(FILES.map(async file => [file, (await import(FOLDER + file)) as Route] as const))

describe('every request has a bound for everything', () => {
  it('is looked at here: each route that is granted has its schemas', () => {
    const known = ROUTES.filter(([, r]) => r.default.shapes).length
    expect(known).toBeGreaterThanOrEqual(Object.keys(ACCESS).length - 2)
  })
  it.each(ROUTES)('%s', (_, route) => {
    const { params, query, body } = route.default.shapes ?? {}
    expect(Object.entries({ params, query, body }).flatMap(([part, schema]) => (schema ? unboundedIn(schema, part) : []))).toEqual([])
  })
  it('and so has every form of a change', () => {
    expect(CHANGE_SCHEMAS.flatMap((schema, i) => unboundedIn(schema, `change ${i}`))).toEqual([])
  })
  it.each([
    ['a string', { body: Joi.object({ a: Joi.string() }) }, 'body.a (string)'],
    ['an array', { query: Joi.object({ a: Joi.array().items(Joi.number()) }) }, 'query.a (array)'],
    ['a string in an array', { body: Joi.object({ a: Joi.array().max(3).items(Joi.string()) }) }, 'body.a[] (string)'],
    ['any keys', { body: Joi.object().pattern(/x/, Joi.number()) }, 'body (any keys)'],
    ['one of two forms', { body: Joi.alternatives(Joi.number(), Joi.string()) }, 'body (string)'],
    ['a form that depends', { body: Joi.object({ a: Joi.when('b', { is: 1, then: Joi.string() }), b: Joi.number() }) }, 'body.a (string)'],
  ])('a route without one for %s is not defined', (_, schemas, where) => {
    expect(() => defineRoute(schemas as RouteSchemas, () => null)).toThrow(`${where} has no bound`)
  })
})

// Of two administrators the one with the older page would overwrite the other, and neither would know.
describe('every write names the version that it saw', () => {
  it('or says why it needs none', () => {
    const routes = ROUTES.map(([file, r]) => {
      const [, route, method] = /^(.*?)(?:\.(get|post|put|delete|patch))?\.ts$/.exec(file)!
      return { route, method, version: r.default.shapes?.version }
    })
    expect(routes.filter(r => r.method && r.method !== 'get').length).toBeGreaterThan(40)
    expect(writesWithoutVersion(routes)).toEqual([])
  })
  it('a route that says nothing of it is found, whatever it is called', () => {
    const routes = ['post', 'PUT', 'delete', 'patch'].map(method => ({ method, route: '/api/x' }))
    const writes = ['POST', 'PUT', 'DELETE', 'PATCH'].map(m => `${m} /api/x`)
    expect(writesWithoutVersion([...routes, { method: 'get', route: '/api/x' }])).toEqual(writes)
  })
  it.each([
    ['is not there', Joi.object({ other: Joi.number().required() })],
    ['may be left out', Joi.object({ version: Joi.number() })],
  ])('a route whose version %s is not defined', (_, body) => {
    expect(() => defineRoute({ body, version: 'body.version' }, () => null)).toThrow('body.version is where the version is said to be')
  })
})
