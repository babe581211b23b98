/** Rows in the order of a column, and how a press on its head changes that: the same column turns round. */
export function useSorted<T, C extends Record<string, (row: T) => number | string>>(
  rows: () => readonly T[],
  columns: C,
  first: { column: keyof C, down: boolean },
) {
  type K = keyof C
  const column = ref(first.column) as Ref<K>
  const down = ref(first.down)
  const sorted = computed(() => {
    const of = columns[column.value]!
    const compare = (a: T, b: T) => {
      const [x, y] = [of(a), of(b)]
      return typeof x === 'string' ? x.localeCompare(String(y), 'en', { numeric: true }) : x - Number(y)
    }
    const up = [...rows()].sort(compare)
    return down.value ? up.reverse() : up
  })
  /** Numbers begin with the largest, names with the first. */
  function sortBy(by: K) {
    const isText = rows().length > 0 && typeof columns[by]!(rows()[0]!) === 'string'
    down.value = by === column.value ? !down.value : !isText
    column.value = by
  }
  const direction = (of: K) => (of === column.value ? (down.value ? 'descending' : 'ascending') : undefined)
  return { sorted, sortBy, direction }
}
