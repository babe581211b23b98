import { defineStore } from 'pinia'
import { api, type AttemptFilter, type AttemptView } from '~/api/client'

/** The message log: which attempts are shown, and which of them is open. Its message is read by the store of mail. */
export const useMessageLogStore = defineStore('messageLog', () => {
  const mail = useMailStore()
  const filter = ref<AttemptFilter>({})
  const items = shallowRef<AttemptView[]>([])
  const next = ref<number | null>(null)
  /** Between which instants the server looked. */
  const span = ref<{ after: string, before: string } | null>(null)
  const state = ref<'loading' | 'ready' | 'failed'>('loading')
  const failure = ref('')
  /** The row where one stands, and the attempt that is open. */
  const at = ref<number | null>(null)
  const opened = shallowRef<AttemptView | null>(null)
  const cursor = computed(() => items.value.findIndex(a => a.id === at.value))
  let asked = 0

  /** Asks; of two questions the later is answered. */
  async function show(wanted: AttemptFilter) {
    filter.value = wanted
    state.value = 'loading'
    at.value = null
    close()
    await load(false)
  }

  async function load(more: boolean) {
    const mine = ++asked
    try {
      const page = await api.attempts({ ...filter.value, ...(more && next.value ? { cursor: next.value } : {}) })
      if (mine !== asked) return
      items.value = more ? [...items.value, ...page.items] : page.items
      next.value = page.next
      span.value = { after: page.after, before: page.before }
      state.value = 'ready'
    }
    catch (error) {
      if (mine !== asked) return
      state.value = 'failed'
      failure.value = error instanceof Error ? error.message : String(error)
    }
  }

  const more = () => (next.value === null || state.value !== 'ready' ? undefined : load(true))

  function step(by: number) {
    const to = items.value[cursor.value < 0 ? 0 : Math.max(0, Math.min(items.value.length - 1, cursor.value + by))]
    if (!to) return
    at.value = to.id
    if (opened.value && opened.value.id !== to.id) open(to)
  }

  /** Opens an attempt: its message in the reader, where there is one. */
  function open(attempt: AttemptView) {
    at.value = attempt.id
    opened.value = attempt
    if (attempt.copyId !== null) mail.openAlone(attempt.copyId)
    else mail.close()
  }

  function close() {
    opened.value = null
    mail.close()
  }

  return { filter, items, next, span, state, failure, at, opened, cursor, show, reload: () => load(false), more, step, open, close }
})
