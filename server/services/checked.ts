import type { Schema } from 'joi'
import { invalid } from './problem'

/**
 * The value as the schema accepts it; otherwise a problem that names every field and what is wrong with it.
 * @param prefix put before the names of fields, for a part of a larger form
 */
export function checked<T>(schema: Schema, value: unknown, prefix = ''): T {
  const { value: good, error } = schema.validate(value, { abortEarly: false, convert: true, errors: { wrap: { label: false } } })
  if (!error) return good as T
  const fields: Record<string, string> = {}
  for (const d of error.details) fields[prefix + d.path.join('.')] ??= d.message
  throw invalid(error.details.slice(0, 5).map(d => d.message).join('; '), fields)
}
