/** The words that need explaining, each in a sentence or two: shown beside the word, and together at the end of the help. */
export const GLOSSARY = {
  location: {
    word: 'Location',
    text: 'Where a message is now: Inbox, Filed, Low priority, Spam, a quarantine or Bin. '
      + 'Of refused and discarded messages only the log entry is kept.',
  },
  message: {
    word: 'Message',
    text: 'A message is listed once per recipient, because each recipient can have other lists and rules.',
  },
  lowPriority: {
    word: 'Low priority',
    text: 'Newsletters and similar: delivered at once, outside the inbox.',
  },
  filed: {
    word: 'Filed',
    text: 'Delivered, but kept out of Inbox. Mail shows it under the location Filed.',
  },
  quarantine: {
    word: 'Quarantine',
    text: 'Holds a message until a reviewer releases it, or the recipient where the quarantine allows that.',
  },
  refused: {
    word: 'Refused',
    text: 'Not accepted: the sending server received an error reply (SMTP 5xx). Only the log entry is kept.',
  },
  discarded: {
    word: 'Discarded',
    text: 'Accepted and thrown away: the sender believes that it arrived. Only the log entry is kept.',
  },
  policyVersion: {
    word: 'Policy version',
    text: 'The policy is all lists and rules together. '
      + 'Every change makes a new version, and each message shows the version that decided it.',
  },
  appliesTo: {
    word: 'Applies to',
    text: 'A change applies to new mail from the next message on, and to existing mail only if you tick it. '
      + 'You can undo it as long as no one has changed the same thing since.',
  },
  mandatory: {
    word: 'Mandatory',
    text: 'Set by an administrator: users’ own lists and rules cannot override it. '
      + 'They do override all other lists and rules of the organisation.',
  },
  verified: {
    word: 'Verified sender',
    text: 'The message really comes from the domain in From: DMARC passed, or a DKIM or SPF result that matches it, here or at a trusted relay. '
      + 'A From alone is easily forged.',
  },
  trustedRelay: {
    word: 'Trusted relay',
    text: 'A mail server whose Authentication-Results (RFC 8601) are used. '
      + 'It is known by the network that it connects from and by its authserv-id.',
  },
  monitor: {
    word: 'Monitor only',
    text: 'The rule or list records what it would have done, and does nothing else. Check its statistics, then enable it.',
  },
  mark: {
    word: 'Mark',
    text: 'What a person says about a message: wanted or unwanted. '
      + 'Moving a stopped message to Inbox counts as wanted, unless it is marked otherwise.',
  },
  falsePositive: {
    word: 'Likely mistake',
    text: 'A stopped message that is probably wanted (a false positive), judging by how verified mail from its sender was treated before. '
      + 'It is a rank, not a probability.',
  },
  impact: {
    word: 'Impact',
    text: 'What a change would do to existing mail: how many messages would be moved, and how they are marked. '
      + 'Nothing is moved until you save.',
  },
  fix: {
    word: 'Suggested fix',
    text: 'A change of lists or rules that would have prevented a mistake, with the number of messages that it releases or stops.',
  },
  assignment: {
    word: 'Assignment',
    text: 'What a list does, and for whom: block or allow its senders. One list can have several assignments.',
  },
  defaultDeny: {
    word: 'Default deny',
    text: 'All senders are blocked who are not on an allow list of the same owner.',
  },
  phraseSet: {
    word: 'Phrase set',
    text: 'Words and phrases under one name, which several rules can use.',
  },
  obfuscated: {
    word: 'Obfuscated spelling',
    text: 'Look-alike letters, digits instead of letters, invisible characters, and letters that are spaced out.',
  },
  proposal: {
    word: 'Proposal',
    text: 'A change that you cannot make yourself, sent to an administrator, who accepts or declines it.',
  },
} as const

export type GlossaryTerm = keyof typeof GLOSSARY

/** The id of a term's entry in the help. */
export function glossaryId(term: GlossaryTerm): string {
  return `glossary-${term.replace(/[A-Z]/g, letter => `-${letter.toLowerCase()}`)}`
}
