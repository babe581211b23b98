import { sql, type Column, type SQL } from 'drizzle-orm'

/** Whether a row of addresses belongs to somebody else too. Named whole: Drizzle leaves the table out of a column that is selected. */
export const isSharedAddress =
  sql<boolean>`exists (select 1 from addresses o where o.address = addresses.address and o.person_id <> addresses.person_id)`

/** Whether a column is one of many values, sent as one array: a parameter for each of thousands takes long to write down. */
export function isAnyOf(column: Column, values: readonly (number | string)[]): SQL {
  return sql`${column} = any(${sql.param([...values])})`
}

/** Letters as they stand, for LIKE. */
export function literally(text: string): string {
  return text.replace(/[\\%_]/g, '\\$&')
}
