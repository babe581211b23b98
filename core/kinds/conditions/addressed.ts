import type { Address } from '../../address'
import { conditionKind } from './kind'

export const ADDRESSED = ['to', 'cc', 'only me', 'not by name'] as const
export type Addressed = (typeof ADDRESSED)[number]

const WORDS: Record<Addressed, string> = {
  'to': 'the recipient is in To',
  'cc': 'the recipient is in Cc',
  'only me': 'the recipient is the only one in To and Cc',
  'not by name': 'the recipient is neither in To nor in Cc',
}

export const addressed = conditionKind({
  name: 'addressed',
  label: 'recipient is in To/Cc',
  schema: ({ Joi }) => Joi.string().valid(...ADDRESSED),
  holds: ({ message: { content }, recipient }, value: Addressed) => {
    const named = (list: readonly Address[]) => list.some(a => a.keyWithoutTag === recipient.keyWithoutTag)
    const holds = {
      'to': () => named(content.to),
      'cc': () => named(content.cc),
      'only me': () => content.to.length + content.cc.length === 1 && named(content.to),
      'not by name': () => !named(content.to) && !named(content.cc),
    }[value]()
    return holds ? value : null
  },
  prefilter: null,
  words: value => WORDS[value],
  found: (_, value) => WORDS[value],
  blank: 'only me' as Addressed,
  field: 'AddressedField',
})
