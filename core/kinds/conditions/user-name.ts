import { conditionKind } from './kind'

/** The sender shows a user's name, at an address outside. */
export const userName = conditionKind({
  name: 'userName',
  label: 'shows a user’s name',
  schema: ({ Joi }) => Joi.valid(true),
  holds: ({ message: { content: { from } }, trust, userNames }) => {
    for (const address of from) {
      const user = trust.ownDomains.includes(address.domain) ? null : userNames.shownBy(address)
      if (user !== null) return user
    }
    return null
  },
  prefilter: {
    by: () => 'any',
    opened: ({ content }) => (content.from.some(a => a.name !== '') ? ['any'] : []),
  },
  words: () => 'the sender shows the name of a user, from an address outside your domains',
  found: shown => `the name of user ${shown}, from an address outside your domains`,
  blank: true as const,
  title: () => 'A user’s name from outside',
  field: null,
})
