import { defineStore } from 'pinia'
import { useDocumentVisibility, useIntervalFn } from '@vueuse/core'
import { api, type ProposalView } from '~/api/client'

const LOOK_EVERY = 60_000

/** What is proposed: what waits for an answer, and the answers to one's own. */
export const useProposalStore = defineStore('proposals', () => {
  const items = shallowRef<ProposalView[] | null>(null)
  const counts = ref({ waiting: 0, news: 0, all: 0 })
  const failure = ref('')

  async function load() {
    try {
      const { items: found, ...now } = await api.proposals()
      items.value = found
      counts.value = now
      failure.value = ''
    }
    catch (error) {
      failure.value = error instanceof Error ? error.message : String(error)
    }
  }

  async function count() {
    if (!useSessionStore().person) return
    try {
      counts.value = await api.proposalCounts()
    }
    catch (error) {
      // The number stays as it was; the page itself says what is wrong.
      console.warn(error)
    }
  }

  /** Marks the answers that are shown as seen. */
  async function sawThem() {
    const news = (items.value ?? []).filter(p => p.news).map(p => p.id)
    if (news.length) counts.value = await api.sawAnswers(news)
  }

  /** Keeps the number up to date, also for whoever stays on one page. */
  function follow() {
    const visibility = useDocumentVisibility()
    useIntervalFn(() => visibility.value === 'visible' && void count(), LOOK_EVERY)
    const notices = useNoticeStore()
    watch(() => notices.current, () => void count())
    void count()
  }

  const waiting = computed(() => counts.value.waiting + counts.value.news)
  return { items, counts, waiting, failure, load, sawThem, follow }
})
