import type { Address } from '../../address'
import { conditionKind } from './kind'

export const ADDRESSED = ['to', 'cc', 'only me', 'not by name'] as const
export type Addressed = (typeof ADDRESSED)[number]

const WORDS: Record<Addressed, string> = {
  'to': 'it is addressed to the reader',
  'cc': 'the reader gets it as a copy',
  'only me': 'it is addressed to the reader alone',
  'not by name': 'the reader is not named in it',
}

export const addressed = conditionKind({
  name: 'addressed',
  label: 'addressed',
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
