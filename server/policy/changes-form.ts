import { Joi } from '#core'
import { MAX_CHANGES, readingChanges, type PolicyChange } from '#core/change'
import { invalid } from '../platform/problem'
import { inSlices } from '../platform/slices'

/** Changes as they come in; what they look like is asked by `changesOf`, which says where they are wrong. */
export const changesField = Joi.array()
  .min(1)
  .max(MAX_CHANGES)
  .required()
  .messages({
    'array.min': 'send at least one change',
    'array.max': `at most ${MAX_CHANGES} changes can be made at once: send them in parts`,
  })

/** The changes that somebody sent, in canonical form. @throws where they are not understood, by their places */
export async function changesOf(sent: unknown): Promise<PolicyChange[]> {
  const read = await inSlices(readingChanges(sent))
  if ('changes' in read) return read.changes
  const fields = Object.fromEntries(read.problems.map(({ path, message }) => [`changes${path.replaceAll('/', '.')}`, message]))
  throw invalid(read.problems.slice(0, 5).map(p => `changes${p.path}: ${p.message}`).join('; '), fields)
}
