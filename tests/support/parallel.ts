/** Does something with each item, so many at a time; the first failure ends it. */
export async function eachOf<T>(items: Iterable<T>, atOnce: number, work: (item: T) => Promise<unknown>): Promise<void> {
  const left = items[Symbol.iterator]()
  const worker = async () => {
    for (let next = left.next(); !next.done; next = left.next()) await work(next.value)
  }
  await Promise.all(Array.from({ length: atOnce }, worker))
}
