import type { LocationQuery } from 'vue-router'

interface Known {
  id: string
  address: string
}

/** The filter of the messages as one of the message log: both know a period, words and a recipient. */
export function logQuery({ since, until, words, who }: LocationQuery, people: readonly Known[]): LocationQuery {
  return kept({ since, until, words, recipient: people.find(p => p.id === who)?.address })
}

/** The filter of the message log as one of the messages: a sender is a word there, as is a recipient who is no user here. */
export function mailQuery({ since, until, words, sender, recipient }: LocationQuery, people: readonly Known[]): LocationQuery {
  const who = people.find(p => p.address === recipient)?.id
  const said = [words, sender].filter(Boolean).join(' ')
  return kept({ since, until, words: said, who })
}

function kept(query: Record<string, LocationQuery[string] | undefined>): LocationQuery {
  return Object.fromEntries(Object.entries(query).filter(([, value]) => value)) as LocationQuery
}
