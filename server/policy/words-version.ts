/**
 * Counted up by every release that describes changes of the policy in other words: sentences that are stored with an older number are
 * made anew (`stored-words.ts`).
 */
export const WORDS_VERSION = 4
