import { checkPolicy, EntryTable, type CheckContext, type EntryTableData, type Finding, type Policy } from '#core'

/** A policy to be checked, with all its entries in memory that threads share. */
export interface ToCheck {
  policy: Policy
  table: EntryTableData
  context: CheckContext
}

/** The findings of a policy, off the thread that serves people. */
export default function check({ policy, table, context }: ToCheck): Finding[] {
  return checkPolicy(policy, { ...context, entries: new EntryTable(table) })
}
