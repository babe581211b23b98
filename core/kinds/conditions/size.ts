import { boundsSchema, boundsWords, isWithin, type Bounds } from '../bounds'
import { sizeWords } from '../../wording'
import { conditionKind } from './kind'

/** In bytes, as received. */
export const size = conditionKind({
  name: 'size',
  label: 'size',
  schema: ({ Joi }) => boundsSchema(Joi, 1_000_000_000),
  holds: ({ message: { content } }, value: Bounds) => (isWithin(content.size, value) ? `${content.size} bytes` : null),
  prefilter: null,
  words: value => `its size is ${boundsWords(value, sizeWords)}`,
  found: shown => `a size of ${shown}`,
  blank: { atLeast: 1_000_000 } as Bounds,
  field: 'SizeField',
})
