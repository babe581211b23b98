import { conditionKind } from './kind'

/** Chosen explicitly: nothing else matches every message. */
export const every = conditionKind({
  name: 'every',
  label: 'every message',
  schema: ({ Joi }) => Joi.valid(true),
  holds: (_, value: true) => value && 'every message',
  prefilter: null,
  words: () => 'any message arrives',
  found: () => 'every message',
  blank: true,
  title: () => 'Every message',
  field: null,
})
