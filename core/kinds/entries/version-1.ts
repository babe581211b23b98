/** The kind of entry that files of format version 1 call so. */
export function entryKindFromVersion1(name: string): 'domainAndSubdomains' | undefined {
  return name === 'domain and below' ? 'domainAndSubdomains' : undefined
}
