import type { Schema } from 'joi'
import { Problem } from './problem'

// Such text is no text: what it was meant to be cannot be told, so it is not understood.
const NOT_UNDERSTOOD = new Set(['string.odd', 'date.odd'])

/**
 * The value as the schema accepts it; otherwise a problem that names every field and what is wrong with it.
 * @param options.prefix put before the names of fields, for a part of a larger form
 * @param options.status of the problem; 400 all the same where the text cannot be understood
 */
export function checked<T>(schema: Schema, value: unknown, { prefix = '', status = 422 }: { prefix?: string, status?: 400 | 422 } = {}): T {
  const { value: good, error } = schema.validate(value, { abortEarly: false, convert: true, errors: { wrap: { label: false } } })
  if (!error) return good as T
  const fields: Record<string, string> = {}
  for (const d of error.details) fields[prefix + d.path.join('.')] ??= d.message
  const result = status === 400 || error.details.some(d => NOT_UNDERSTOOD.has(d.type)) ? 400 : status
  throw new Problem(
    result,
    result === 400 ? 'Not understood' : 'Check your input',
    error.details
      .slice(0, 5)
      .map(d => d.message)
      .join('; '),
    { fields },
  )
}
