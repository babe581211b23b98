import { conditionKind } from './kind'

/** Any mailing list, or the one with that List-Id (RFC 2919). */
export const mailingList = conditionKind({
  name: 'mailingList',
  label: 'mailing list',
  schema: ({ Joi }) => Joi.alternatives().try(Joi.valid(true), Joi.string().lowercase().trim().min(1).max(320)),
  holds: ({ message: { content } }, value: true | string) => {
    if (value !== true) return content.list.id === value ? value : null
    const { id, unsubscribe, precedence } = content.list
    return id ?? unsubscribe[0] ?? (precedence === 'bulk' || precedence === 'list' ? precedence : null)
  },
  prefilter: {
    by: () => 'any',
    opened: ({ content: { list } }) => (list.id !== null || list.unsubscribe.length || list.precedence !== null ? ['any'] : []),
  },
  words: value => (value === true ? 'it was sent by a mailing list' : `it was sent by the mailing list ${value}`),
  found: shown => `the mailing list ${shown}`,
  blank: true as true | string,
  field: 'MailingListField',
})
