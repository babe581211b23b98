import type { Description, Schema } from 'joi'

/** The schemas of a route. */
export interface RouteSchemas {
  params?: Schema
  query?: Schema
  body?: Schema
}

/** Where a write finds the version that its caller saw; or why it needs none. */
export type SeenVersion = `body.${string}` | `query.${string}` | { none: string }

interface Described extends Omit<Description, 'keys' | 'rules'> {
  rules?: { name: string }[]
  keys?: Record<string, Described>
  items?: Described[]
  ranked?: Described[]
  patterns?: { rule: Described }[]
  matches?: { schema?: Described, then?: Described, otherwise?: Described }[]
  whens?: { then?: Described, otherwise?: Described }[]
  /** What links lead to. */
  shared?: Described[]
}

const SHORT = new Set(['isoDate', 'ip', 'guid', 'token'])

function isBounded({ rules = [], flags }: Described): boolean {
  return (flags as { only?: boolean } | undefined)?.only || rules.some(r => r.name === 'max' || r.name === 'length' || SHORT.has(r.name))
}

/** Where in a schema something may be as long as a caller likes: what is sent without a bound, somebody sends until all others wait. */
export function unboundedIn(schema: Schema, at: string): string[] {
  return [...unbounded(schema.describe() as Described, at)]
}

function* unbounded(schema: Described, at: string): Generator<string> {
  if ((schema.type === 'array' || schema.type === 'string') && !isBounded(schema)) yield `${at} (${schema.type})`
  if (schema.type === 'object' && schema.patterns?.length && !isBounded(schema)) yield `${at} (any keys)`
  for (const [key, inner] of Object.entries(schema.keys ?? {})) yield* unbounded(inner, `${at}.${key}`)
  for (const inner of [...(schema.items ?? []), ...(schema.ranked ?? [])]) yield* unbounded(inner, `${at}[]`)
  for (const { rule } of schema.patterns ?? []) yield* unbounded(rule, `${at}.*`)
  for (const { schema: inner, then, otherwise } of schema.matches ?? [])
    for (const one of [inner, then, otherwise]) if (one) yield* unbounded(one, at)
  for (const { then, otherwise } of schema.whens ?? []) for (const one of [then, otherwise]) if (one) yield* unbounded(one, at)
  for (const inner of schema.shared ?? []) yield* unbounded(inner, `${at}, linked`)
}

/** What is wrong with a route before anybody calls it: the server does not start with it. */
export function routeFaults(schemas: RouteSchemas, version: SeenVersion | undefined): string[] {
  const faults = (['params', 'query', 'body'] as const).flatMap(part =>
    schemas[part] ? unboundedIn(schemas[part], part).map(where => `${where} has no bound: add .max()`) : [])
  if (typeof version === 'string') {
    const [part, field] = version.split('.') as ['body' | 'query', string]
    if (!schemas[part] || !isAskedFor(schemas[part].describe() as Described, field))
      faults.push(`${version} is where the version is said to be, and the schema does not require it`)
  }
  return faults
}

// Required; or one of two that go together or exclude each other, as ids with versions do.
function isAskedFor(schema: Described, field: string): boolean {
  const key = schema.keys?.[field]
  if (!key) return false
  if ((key.flags as { presence?: string } | undefined)?.presence === 'required') return true
  const { dependencies = [] } = schema as { dependencies?: { rel: string, peers?: string[] }[] }
  return dependencies.some(({ rel, peers = [] }) => (rel === 'with' || rel === 'xor') && peers.includes(field))
}

/** The routes that write and do not say which version their caller saw, nor why they need none. */
export function writesWithoutVersion(routes: readonly { method?: string, route?: string, version?: SeenVersion }[]): string[] {
  return routes
    .filter(({ method, version }) => method !== undefined && !/^get$/i.test(method) && version === undefined)
    .map(({ method, route }) => `${method!.toUpperCase()} ${route ?? ''}`)
}
