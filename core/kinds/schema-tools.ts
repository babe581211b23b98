import type { Root, Schema } from 'joi'
import type { EntryKind } from './entries'

/**
 * What the schemas of values are made with. It is handed in by whoever checks, so that what only shows conditions (the
 * browser) need not load a checker.
 */
export interface SchemaTools {
  Joi: Root
  /** An instant or a day as text (ISO 8601). */
  instant: Schema
  /** Name of a header field, lower case. */
  headerName: Schema
  /** Kind and value of an entry; the value comes out canonical. */
  entryText(kinds: readonly EntryKind[]): Schema
}
