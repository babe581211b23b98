import type { Counts } from '#core/policy'

/** Which senders an allow list or an exception counts for. */
export const COUNTS_OPTIONS: readonly { value: Counts, name: string }[] = [
  { value: 'verified', name: 'verified senders only' },
  { value: 'notFailed', name: 'unless authentication fails' },
  { value: 'any', name: 'even if not verified' },
]

/** What could be forged; empty where nothing could. */
export function forgeryWarning(counts: Counts): string {
  if (counts === 'verified') return ''
  const failing = counts === 'any'
    ? 'even if authentication failed'
    : 'as long as authentication does not fail; most forged mail has no result'
  return `Anyone can write such a From: a forged message gets through, ${failing}.`
}

/** Whether the rule that is edited is mandatory: then only verified senders count, and there is nothing to choose. */
export const MANDATORY_RULE: InjectionKey<Ref<boolean>> = Symbol('mandatory rule')
