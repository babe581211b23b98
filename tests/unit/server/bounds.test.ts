// Whatever a request may hold without a bound, somebody sends until everybody else waits.
import { readdirSync } from 'node:fs'
import type { Schema } from 'joi'
import { describe, expect, it } from 'vitest'
import { CHANGE_SCHEMAS } from '#core/change'
import { ACCESS } from '../../../server/access/routes'

interface Described {
  type: string
  flags?: { only?: boolean, unknown?: boolean, format?: unknown }
  rules?: { name: string, args?: { limit?: unknown } }[]
  keys?: Record<string, Described>
  items?: Described[]
  ordered?: Described[]
  patterns?: { rule: Described }[]
  matches?: { schema?: Described, then?: Described, otherwise?: Described }[]
  whens?: { then?: Described, otherwise?: Described, switch?: { then?: Described }[] }[]
  /** What links lead to. */
  shared?: Described[]
}

const SHORT = new Set(['isoDate', 'ip', 'guid', 'token'])
const isBounded = ({ rules = [], flags }: Described) =>
  flags?.only || rules.some(r => r.name === 'max' || r.name === 'length' || SHORT.has(r.name))

/** Where in a schema something may be as long as somebody likes. */
function* unbounded(schema: Described, at: string): Generator<string> {
  if ((schema.type === 'array' || schema.type === 'string') && !isBounded(schema)) yield `${at} (${schema.type})`
  if (schema.type === 'object' && schema.patterns?.length && !schema.rules?.some(r => r.name === 'max')) yield `${at} (any keys)`
  for (const [key, inner] of Object.entries(schema.keys ?? {})) yield* unbounded(inner, `${at}.${key}`)
  for (const inner of [...(schema.items ?? []), ...(schema.ordered ?? [])]) yield* unbounded(inner, `${at}[]`)
  for (const { rule } of schema.patterns ?? []) yield* unbounded(rule, `${at}.*`)
  for (const { schema: inner, then, otherwise } of schema.matches ?? [])
    for (const one of [inner, then, otherwise]) if (one) yield* unbounded(one, at)
  for (const { then, otherwise } of schema.whens ?? []) for (const one of [then, otherwise]) if (one) yield* unbounded(one, at)
  for (const inner of schema.shared ?? []) yield* unbounded(inner, `${at}, linked`)
}

interface Route { default: { shapes?: { params?: Schema, query?: Schema, body?: Schema } } }
const FOLDER = new URL('../../../server/api/', import.meta.url).pathname
const FILES = readdirSync(FOLDER, { recursive: true, encoding: 'utf8' }).filter(f => f.endsWith('.ts'))
const ROUTES = await Promise.all(FILES.map(async file => [file, (await import(FOLDER + file)) as Route] as const))

describe('every request', () => {
  it('is looked at here: each route that is granted has its schemas', () => {
    const known = ROUTES.filter(([, r]) => r.default.shapes).length
    expect(known).toBeGreaterThanOrEqual(Object.keys(ACCESS).length - 2)
  })
  it.each(ROUTES)('%s: has a bound for everything', (_, route) => {
    const { params, query, body } = route.default.shapes ?? {}
    const found = Object.entries({ params, query, body }).flatMap(([what, schema]) =>
      schema ? [...unbounded(schema.describe() as Described, what)] : [])
    expect(found).toEqual([])
  })
  it('and so has every form of a change', () => {
    expect(CHANGE_SCHEMAS.flatMap((schema, i) => [...unbounded(schema.describe() as Described, `change ${i}`)])).toEqual([])
  })
})
