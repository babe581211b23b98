import { Joi } from '#core'
import { defineRoute } from '../../access/route'
import { findEntries } from '../../policy/entries-found'

const query = Joi.object<{ words: string }, true>({
  words: Joi.string().trim().min(2).max(320).required().messages({ 'string.min': 'enter at least two characters' }),
})

export default defineRoute({ query }, ({ actor, query: { words } }) => findEntries(actor, words))
