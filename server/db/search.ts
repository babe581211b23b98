import { sql, type SQL } from 'drizzle-orm'
import { SEARCH_VERSION, typedWords, type NeededWords } from '#core/text'

/** Stands among the words of a message whose words do not say all: it is found by every phrase. No word is written so. */
export const ANY_WORD = '*'

/** The words of a message, as its row keeps them. */
export function searchColumn(words: readonly string[]): SQL<string> {
  return sql<string>`array_to_tsvector(${sql.param([...words])}::text[])`
}

/** Messages (as `m`) in which one of these texts may stand; those among them whose words were cut otherwise. */
export function mayHold(texts: readonly NeededWords[]): SQL {
  const each = texts.map(({ words, beginnings }) => [...words.map(quotedWord), ...beginnings.map(w => `${quotedWord(w)}:*`)].join(' & '))
  const query = [...new Set(each), quotedWord(ANY_WORD)].join(' | ')
  return sql`(m.search @@ ${query}::tsquery or m.search_version < ${SEARCH_VERSION})`
}

/** What somebody types to search for, as a query for messages that have all the words, or words that begin so; null where it has none. */
export function typedQuery(text: string): string | null {
  const words = typedWords(text)
  return words.length ? words.slice(0, MAX_TYPED).map(w => `${quotedWord(w)}:*`).join(' & ') : null
}

const MAX_TYPED = 20

// Words are letters, digits and marks; quoted they are no operators.
function quotedWord(word: string): string {
  return `'${word.replaceAll('\'', '\'\'')}'`
}
