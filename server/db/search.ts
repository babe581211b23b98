import { sql, type SQL } from 'drizzle-orm'
import { SEARCH_VERSION, typedWords, type NeededWords, type SearchTerms } from '#core/text'
import { messages } from './schema'

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

/**
 * A typed search, as a query for messages that have all the words, or words that begin so; of texts in quotes the words
 * as they are. Null where it has none.
 */
export function typedQuery({ words, quoted }: SearchTerms): string | null {
  const all = [...typedWords(words).map(w => `${quotedWord(w)}:*`), ...quoted.flatMap(typedWords).map(quotedWord)]
  return all.length ? all.slice(0, MAX_TYPED).join(' & ') : null
}

/**
 * Messages that contain a text as it is, with white space of any kind and length between its words: in subject, text, names of
 * attachments, or name and address of a sender. Only asked of messages that have its words.
 */
export function hasText(text: string): SQL {
  const words = text.normalize('NFKC').split(/\s+/).map(word => word.replaceAll(/[^\p{L}\p{N}\p{M}]/gu, '\\$&'))
  const expression = `(^|[^[:alnum:]])${words.join('\\s+')}($|[^[:alnum:]])`
  const member = (name: string, field: string) => sql`
    select one ->> ${field}::text from jsonb_array_elements(coalesce(${messages.facts} -> ${name}::text, '[]')) one`
  const texts = sql.join(
    [
      sql`select ${messages.subject}`,
      member('segments', 'text'),
      member('attachments', 'name'),
      member('from', 'name'),
      member('from', 'local'),
      member('from', 'domainUnicode'),
      member('replyTo', 'name'),
    ],
    sql` union all `,
  )
  return sql`exists (select 1 from (${texts}) as texts (t) where normalize(t, NFKC) ~* ${expression})`
}

const MAX_TYPED = 20

// Words are letters, digits and marks; quoted they are no operators.
function quotedWord(word: string): string {
  return `'${word.replaceAll('\'', '\'\'')}'`
}
