import { Joi } from '#core'
import { readChanges, type PolicyChange } from '#core/change'
import { invalid } from '../platform/problem'

/** Changes as they come in; what they look like is asked by `changesOf`, which says where they are wrong. */
export const changesField = Joi.array().min(1).required().messages({ 'array.min': 'say at least one change' })

/** The changes that somebody sent, in canonical form. @throws where they are not understood, by their places */
export function changesOf(sent: unknown): PolicyChange[] {
  const read = readChanges(sent)
  if ('changes' in read) return read.changes
  const fields = Object.fromEntries(read.problems.map(({ path, message }) => [`changes${path.replaceAll('/', '.')}`, message]))
  throw invalid(read.problems.slice(0, 5).map(p => `changes${p.path}: ${p.message}`).join('; '), fields)
}
