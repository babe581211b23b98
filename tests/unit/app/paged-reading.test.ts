import { describe, expect, it } from 'vitest'
import { usePagedReading } from '../../../app/composables/pagedReading'

interface Page { items: string[], next: string | null }
interface Question { answer: (page: Page) => void, fail: (why: string) => void }

/** A server that answers when the test says so: questions[i] is the i-th one asked. */
function slowServer() {
  const questions: Question[] = []
  let shown: Page = { items: [], next: null }
  const ask = () => new Promise<Page>((resolve, reject) => {
    questions.push({ answer: resolve, fail: why => reject(new Error(why)) })
  })
  const reading = usePagedReading<Page>({
    first: ask,
    next: () => (shown.next ? ask() : null),
    show: page => (shown = page),
    append: page => (shown = { items: [...shown.items, ...page.items], next: page.next }),
  })
  return { questions, reading, shown: () => shown.items }
}
const page = (items: string[], next: string | null = null): Page => ({ items, next })

describe('reading page by page: what is shown would not be what was asked for', () => {
  it('an older question that fails late does not replace the newer answer with its error', async () => {
    const { questions, reading, shown } = slowServer()
    const [older, newer] = [reading.load(), reading.load()]
    questions[1]!.answer(page(['new']))
    await newer
    questions[0]!.fail('the older question failed')
    await older
    expect([reading.failure.value, shown()]).toEqual(['', ['new']])
  })
  it('an older answer that comes late is dropped, and so is its failure once a newer one failed', async () => {
    const { questions, reading, shown } = slowServer()
    const [older, newer] = [reading.load(), reading.load()]
    questions[1]!.fail('no such list')
    await newer
    questions[0]!.answer(page(['old']))
    await older
    expect([reading.failure.value, shown()]).toEqual(['no such list', []])
  })
  it('a page of the search before is not appended to the results of the next one', async () => {
    const { questions, reading, shown } = slowServer()
    const first = reading.load()
    questions[0]!.answer(page(['a1'], 'a2'))
    await first
    const scrolling = reading.more()
    const search = reading.load()
    questions[2]!.answer(page(['b1'], 'b2'))
    await search
    // The new results can be scrolled while the old page is still on its way.
    const next = reading.more()
    questions[1]!.answer(page(['a2']))
    await scrolling
    expect(shown()).toEqual(['b1'])
    questions[3]!.answer(page(['b2']))
    await next
    expect(shown()).toEqual(['b1', 'b2'])
  })
  it('scrolling twice before the page is there asks once, and its failure is shown', async () => {
    const { questions, reading, shown } = slowServer()
    const first = reading.load()
    questions[0]!.answer(page(['a1'], 'a2'))
    await first
    const both = [reading.more(), reading.more()]
    expect(questions).toHaveLength(2)
    questions[1]!.fail('the connection was lost')
    await Promise.all(both)
    expect([reading.failure.value, shown()]).toEqual(['the connection was lost', ['a1']])
    void reading.more()
    expect(questions).toHaveLength(3)
  })
})
