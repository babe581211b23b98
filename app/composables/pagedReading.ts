import { ref } from 'vue'

/**
 * Reads something page by page while what is asked for changes. Only the newest question counts: an older one's answer, failure
 * or further page arrives late and is discarded.
 * @param pages.first asks for the first page
 * @param pages.next asks for the page after the last one shown; null when there is none
 * @param pages.show replaces what is shown
 * @param pages.append adds a further page
 */
export function usePagedReading<Page>(pages: {
  first: () => Promise<Page>
  next: () => Promise<Page> | null
  show: (page: Page) => void
  append: (page: Page) => void
}) {
  /** Why the newest question was not answered; empty where it was. */
  const failure = ref('')
  let newest = 0
  /** The question whose next page is on its way. */
  let appendingTo = 0

  async function load() {
    const mine = ++newest
    await answer(mine, pages.first(), pages.show)
  }

  /** Appends the next page, unless it is on its way. */
  async function more() {
    const mine = newest
    if (appendingTo === mine) return
    const asked = pages.next()
    if (!asked) return
    appendingTo = mine
    await answer(mine, asked, pages.append)
    if (appendingTo === mine) appendingTo = 0
  }

  async function answer(mine: number, asked: Promise<Page>, take: (page: Page) => void) {
    try {
      const page = await asked
      if (mine !== newest) return
      take(page)
      failure.value = ''
    }
    catch (error) {
      if (mine === newest) failure.value = error instanceof Error ? error.message : String(error)
    }
  }

  return { failure, load, more }
}
