/** Adds to the values of a key, which has none at first. */
export function addTo<K, T>(to: Map<K, T[]>, key: K, value: T): void {
  const values = to.get(key)
  if (values) values.push(value)
  else to.set(key, [value])
}
