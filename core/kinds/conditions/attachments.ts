import { counted, numberWords } from '../../wording'
import { boundsSchema, boundsWords, isWithin, type Bounds } from '../bounds'
import { conditionKind } from './kind'

/** How many there are. */
export const attachments = conditionKind({
  name: 'attachments',
  label: 'number of attachments',
  schema: ({ Joi }) => boundsSchema(Joi, 100_000),
  holds: ({ message: { content } }, value: Bounds) =>
    isWithin(content.attachments.length, value) ? `${content.attachments.length}` : null,
  prefilter: {
    by: value => ((value.atLeast ?? 0) > 0 ? 'any' : null),
    opened: ({ content }) => (content.attachments.length ? ['any'] : []),
  },
  words: value => `it has ${boundsWords(value, numberWords)} attachments`,
  found: shown => counted(Number(shown), 'attachment'),
  blank: { atLeast: 1 } as Bounds,
  field: 'AttachmentsField',
})
