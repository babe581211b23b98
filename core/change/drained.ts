/** What work comes to that can be interrupted, done without interruption. */
export function drained<T>(work: Generator<undefined, T>): T {
  for (;;) {
    const { done, value } = work.next()
    if (done) return value
  }
}
