/** Names of keys that version 2 of the format calls otherwise. */
const KEYS: Readonly<Record<string, string>> = {
  bindings: 'assignments',
  must: 'mandatory',
  raised: 'overridesLists',
  marks: 'upstreamVerdicts',
  markedUpstream: 'upstreamVerdict',
}

/** Values that version 2 of the format calls otherwise, by the key under which they stand. */
const VALUES: Readonly<Record<string, Readonly<Record<string, string>>>> = {
  state: { off: 'disabled', watching: 'monitor', acting: 'enabled' },
  to: { 'slow lane': 'lowPriority', 'drop': 'discard' },
  counts: { 'pass': 'verified', 'not fail': 'notFailed' },
  view: { undisguised: 'obfuscated' },
  kind: {
    'domain and below': 'domainAndSubdomains',
    'mailing list': 'mailingList',
    'next hop': 'nextHop',
    'subject mark': 'subjectPrefix',
    'withhold from automation': 'withholdFromAutomation',
  },
}

/**
 * A part of a policy, or a whole one, in version 2 of the format. What it cannot read it leaves as it is: the schema says what is wrong.
 * @param value JSON of format version 1
 */
export function fromVersion1(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(fromVersion1)
  if (typeof value !== 'object' || value === null) return value
  return Object.fromEntries(Object.entries(value).map(([key, inner]): [string, unknown] => {
    // The switch of a list; nothing else in the format has a key of this name.
    if (key === 'on' && typeof inner === 'boolean') return ['enabled', inner]
    if (key === 'formatVersion') return [key, 2]
    const renamed = typeof inner === 'string' && Object.hasOwn(VALUES, key) ? VALUES[key]![inner] : undefined
    return [Object.hasOwn(KEYS, key) ? KEYS[key]! : key, renamed ?? fromVersion1(inner)]
  }))
}
