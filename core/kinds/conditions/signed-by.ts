import { domainToAscii, isMailDomain } from '../../address'
import { signersOf } from '../../message'
import { conditionKind } from './kind'

/** A DKIM signature of that domain passed (RFC 6376): its d=, whether it matches From or not. */
export const signedBy = conditionKind({
  name: 'signedBy',
  label: 'signed by (DKIM)',
  schema: ({ Joi }) =>
    Joi.string().max(255).custom((text: string, helpers) => {
      const domain = domainToAscii(text.trim())
      return domain && isMailDomain(domain) ? domain : helpers.message({ custom: `“${text}” is not a domain` })
    }),
  holds: ({ message: { attempt } }, value: string) => (signersOf(attempt.authentication).includes(value) ? value : null),
  prefilter: { by: value => value, opened: ({ attempt }) => signersOf(attempt.authentication) },
  words: value => `it is signed by ${value}`,
  found: shown => `a signature of ${shown}`,
  blank: '',
  lacks: value => (value.trim() ? null : 'Enter the domain that signs.'),
  title: value => `Signed by ${value}`,
  field: 'SignedByField',
})
