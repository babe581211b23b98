import { conditionKind } from './kind'

export const important = conditionKind({
  name: 'important',
  label: 'important flag',
  schema: ({ Joi }) => Joi.valid(true),
  holds: ({ message: { content } }, value: true) => (value && content.important ? 'marked important' : null),
  prefilter: { by: () => 'so', opened: ({ content }) => (content.important ? ['so'] : []) },
  words: () => 'its sender flagged it as important',
  found: shown => shown,
  blank: true,
  field: null,
})
