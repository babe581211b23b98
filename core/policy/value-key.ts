/**
 * A text that two values share if they are equal, whatever the order of their keys: a database's JSON does not keep it.
 * Of plain data, as in a policy.
 */
export function valueKey(value: unknown): string {
  return JSON.stringify(value, (_, v: unknown) =>
    v !== null && typeof v === 'object' && !Array.isArray(v)
      ? Object.fromEntries(Object.entries(v).sort(([a], [b]) => (a < b ? -1 : 1)))
      : v,
  )
}
