import type { Direction } from '../../message'
import { conditionKind } from './kind'

export const direction = conditionKind({
  name: 'direction',
  label: 'direction',
  schema: ({ Joi }) => Joi.string().valid('inbound', 'outbound', 'internal'),
  holds: (known, value: Direction) => (known.direction === value ? value : null),
  prefilter: null,
  words: value => `it is ${value} mail`,
  found: shown => `${shown} mail`,
  blank: 'inbound' as Direction,
  field: 'DirectionField',
})
