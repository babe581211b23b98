import type { Address } from '../address'
import { viewOf, viewText } from '../text'

const LETTERS = /[\p{L}\p{N}]+/gu

/**
 * The names of users, to be found in display names: each word of a name, in any order, look-alike letters taken for what they look like
 * (UTS #39). A name of one word has to be the whole display name.
 */
export class UserNames {
  /** By one word of each name. */
  readonly #byWord = new Map<string, { name: string, words: readonly string[] }[]>()

  constructor(users: readonly { name: string }[]) {
    for (const { name } of users) {
      const words = wordsOf(name)
      const longest = words.toSorted((a, b) => b.length - a.length)[0]
      if (longest === undefined) continue
      const there = this.#byWord.get(longest)
      if (there) there.push({ name, words })
      else this.#byWord.set(longest, [{ name, words }])
    }
  }

  /** The user whose name a sender shows; null where it is no user's. */
  shownBy({ name }: Pick<Address, 'name'>): string | null {
    if (!name || !this.#byWord.size) return null
    const shown = wordsOf(name)
    const has = new Set(shown)
    for (const word of has)
      for (const user of this.#byWord.get(word) ?? [])
        if (user.words.every(w => has.has(w)) && (user.words.length > 1 || shown.length === 1)) return user.name
    return null
  }
}

function wordsOf(name: string): string[] {
  return viewText(viewOf(name, 'skeleton of fold')).match(LETTERS) ?? []
}
