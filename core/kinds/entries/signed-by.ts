import { domainToAscii, isMailDomain } from '../../address'
import { entryKind, short } from './kind'

/** By a domain that signed the message (DKIM, RFC 6376): its d=, whatever From says. */
export const signedBy = entryKind({
  name: 'signedBy',
  label: 'signed by (DKIM)',
  line: 'signed by',
  example: 'mail.quayline.example',
  of: 'message',
  canonical(text) {
    const domain = domainToAscii(text.replace(/^@/, ''))
    return domain && isMailDomain(domain) ? domain : { error: `“${short(text)}” is not a domain. Enter the domain that signs, such as quayline.example.` }
  },
  looksLike: () => false,
  catches: (value, { signers }) => signers?.includes(value) ?? false,
  lookup: {
    ask({ signers }, asked) {
      for (const domain of signers ?? []) asked(domain)
    },
  },
  rank: 4,
  within: () => 0,
  // The signature is what was verified; the sender in From is not.
  verifiable: () => true,
  domain: () => null,
  wider: () => [],
  doubt: () => null,
  words: value => `signed by ${value}`,
})
