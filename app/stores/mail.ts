import { defineStore } from 'pinia'
import {
  api,
  ApiProblem,
  type CopyCount,
  type CopyDetail,
  type CopyView,
  type CopyQuery,
} from '~/api/client'

const PAGE = 60
const MAX_BATCH_SIZE = 200
/** So many are read anew after an event at most; what lies below comes again when it is scrolled to. */
const MAX_KEPT = 1000
/** Up to so many are named one by one, each in the version in which it was seen. */
const MAX_NAMED = 2000

/**
 * The list of messages: which copies are shown, and which of them are meant. Meant are the chosen ones; else the open one; else the one
 * with the ring. What is open and where the ring stands move together, so that what is read and what is meant are never two.
 */
export const useMailStore = defineStore('mail', () => {
  const notices = useNoticeStore()
  const filter = ref<CopyQuery>({})
  const items = ref<CopyView[]>([])
  /** How many there are; null until it is known, which the lines do not wait for. */
  const count = ref<CopyCount | null>(null)
  const next = ref<string | null>(null)
  const state = ref<'loading' | 'ready' | 'failed'>('loading')
  const failure = ref('')
  /** The row where one stands, by its copy; null where one stands nowhere yet. */
  const at = ref<number | null>(null)
  /** The ring is drawn around that row. */
  const ringed = ref(false)
  const chosen = ref(new Set<number>())
  /** All that match are chosen, also beyond what is loaded; then `chosen` holds the exceptions. */
  const all = ref(false)
  /** The copy that is read: its line at once, the whole as soon as it is there. */
  const opened = ref<CopyView | null>(null)
  const open = ref<CopyDetail | null>(null)
  /** The copy that is read was opened from elsewhere, and no list is shown: after an act it stays open. */
  const alone = ref(false)
  /** An act was about the last row: there is no next one. */
  const ended = ref(false)
  let asked = 0
  let anchor: number | null = null

  const cursor = computed(() => items.value.findIndex(i => i.id === at.value))
  const isChosen = (id: number) => chosen.value.has(id) !== all.value
  const chosenCount = computed(() => {
    if (!all.value) return chosen.value.size
    return Math.max(0, (count.value?.total ?? items.value.length) - chosen.value.size)
  })

  /** The copies that a key or a button is about, as far as they are loaded. */
  const meant = computed<CopyView[]>(() => {
    if (chosenCount.value) return items.value.filter(i => isChosen(i.id))
    if (opened.value) return [opened.value]
    const row = ringed.value ? items.value[cursor.value] : undefined
    return row ? [row] : []
  })

  async function show(wanted: CopyQuery) {
    filter.value = wanted
    alone.value = false
    unchoose()
    at.value = null
    ringed.value = false
    ended.value = false
    await reload(true)
    if (opened.value && !items.value.some(i => i.id === opened.value!.id)) close()
    else if (opened.value) at.value = opened.value.id
  }

  async function reload(fresh = false) {
    if (alone.value) return readAgain()
    const mine = ++asked
    if (fresh) state.value = 'loading'
    void recount(mine, fresh)
    try {
      const wanted = fresh ? PAGE : Math.min(MAX_KEPT, Math.max(PAGE, items.value.length))
      const found: CopyView[] = []
      let cursorOf: string | null = null
      do {
        const page: { items: CopyView[], next: string | null } = await api.copies({
          ...filter.value,
          limit: Math.min(MAX_BATCH_SIZE, wanted - found.length),
          ...(cursorOf ? { cursor: cursorOf } : {}),
        })
        if (mine !== asked) return
        found.push(...page.items)
        cursorOf = page.next
      } while (cursorOf && found.length < wanted)
      items.value = found
      next.value = cursorOf
      if (!all.value) chosen.value = new Set([...chosen.value].filter(id => found.some(i => i.id === id)))
      if (cursor.value < 0) ringed.value = false
      const line = found.find(i => i.id === opened.value?.id)
      if (line) opened.value = line
      state.value = 'ready'
    }
    catch (error) {
      if (mine !== asked) return
      state.value = 'failed'
      failure.value = error instanceof Error ? error.message : String(error)
    }
  }

  async function recount(mine: number, fresh: boolean) {
    if (fresh) count.value = null
    try {
      const found = await api.copyCount(filter.value)
      if (mine === asked) count.value = found
    }
    catch (error) {
      // The lines say what is wrong, if they fail too; a number that is missing alone is no notice worth.
      if (mine === asked) count.value = null
      console.warn(error)
    }
  }

  let loadingMore = false
  async function more() {
    if (!next.value || loadingMore) return
    loadingMore = true
    const mine = asked
    try {
      const page = await api.copies({ ...filter.value, cursor: next.value, limit: MAX_BATCH_SIZE })
      if (mine !== asked) return
      items.value = [...items.value, ...page.items]
      next.value = page.next
    }
    catch (error) {
      notices.failed(error)
    }
    finally {
      loadingMore = false
    }
  }

  // Where one stands, and what is read

  /** Stands on a row; where a message is read, that one is read from now on. */
  function standOn(id: number) {
    ended.value = false
    at.value = id
    ringed.value = true
    if (opened.value && opened.value.id !== id) read(id, 150)
  }

  /** Moves by so many rows; the first step stands on the first row. */
  function step(by: number) {
    if (!items.value.length) return
    const to = cursor.value < 0 ? 0 : Math.max(0, Math.min(items.value.length - 1, cursor.value + by))
    standOn(items.value[to]!.id)
  }

  /** Reads a copy; what was chosen is chosen no more, since both would be meant. */
  function openCopy(id: number) {
    unchoose()
    standOn(id)
    if (opened.value?.id !== id) read(id, 0)
  }

  /** Reads a copy from outside the list of messages. */
  function openAlone(id: number) {
    alone.value = true
    asked++
    items.value = []
    next.value = null
    count.value = null
    unchoose()
    if (opened.value?.id !== id) close()
    at.value = null
    void fetchOpen(id, 0)
  }

  let openRequests = 0
  /** @param pause milliseconds after which the whole is asked for: whoever only passes by has not opened it */
  function read(id: number, pause: number) {
    const line = items.value.find(i => i.id === id)
    if (line) opened.value = line
    open.value = null
    void fetchOpen(id, pause)
  }

  async function fetchOpen(id: number, pause: number) {
    const mine = ++openRequests
    if (pause) await new Promise(resolve => setTimeout(resolve, pause))
    if (mine !== openRequests) return
    try {
      const detail = await api.copy(id)
      if (mine !== openRequests) return
      open.value = detail
      opened.value = detail
    }
    catch (error) {
      if (mine !== openRequests) return
      close()
      notices.failed(error)
    }
  }

  function close() {
    openRequests++
    open.value = null
    opened.value = null
  }

  // Choosing

  function unchoose() {
    chosen.value = new Set()
    all.value = false
    anchor = null
  }

  /** Chooses a row or lets it go. What is read meanwhile is closed: the chosen ones are meant. */
  function toggle(id: number) {
    const now = new Set(chosen.value)
    if (!now.delete(id)) now.add(id)
    chosen.value = now
    anchor = id
    at.value = id
    ringed.value = true
  }

  /** Chooses everything from where one last chose, or stood, to a row. */
  function chooseTo(id: number) {
    const from = items.value.findIndex(i => i.id === (anchor ?? at.value))
    const to = items.value.findIndex(i => i.id === id)
    if (to < 0) return
    const start = from < 0 ? to : from
    anchor = items.value[start]!.id
    const range = items.value.slice(Math.min(start, to), Math.max(start, to) + 1).map(i => i.id)
    all.value = false
    chosen.value = new Set(range)
    at.value = id
    ringed.value = true
  }

  /** Chooses all that match, also what is not loaded. */
  function chooseAll() {
    if (!items.value.length) return
    anchor = null
    all.value = next.value !== null || items.value.length > MAX_NAMED
    chosen.value = all.value ? new Set() : new Set(items.value.map(i => i.id))
  }

  /** The row after those becomes the one where one stands, at once, and is read where one was read. */
  async function goOn(from: readonly CopyView[]) {
    if (alone.value) return
    const done = new Set(from.map(c => c.id))
    const reading = opened.value !== null
    const last = items.value.findLastIndex(i => done.has(i.id))
    if (last === items.value.length - 1 && next.value) await more()
    const following = all.value ? undefined : items.value.slice(last + 1).find(i => !done.has(i.id))
    unchoose()
    if (following && last >= 0) {
      standOn(following.id)
      if (reading) read(following.id, 0)
    }
    else {
      close()
      at.value = null
      ringed.value = false
      ended.value = from.length > 0
    }
  }

  /** Shows what is true now. What is read is read anew only where it has changed. */
  async function refresh() {
    await reload()
    if (!open.value || alone.value) return
    const { id, version } = open.value
    const line = items.value.find(i => i.id === id)
    if (line?.version !== version) await readAgain()
  }

  /** Reads anew what is read. */
  async function readAgain() {
    const id = opened.value?.id
    if (id === undefined) return
    try {
      const detail = await api.copy(id)
      if (opened.value?.id === id) opened.value = open.value = detail
    }
    catch (error) {
      if (opened.value?.id !== id) return
      close()
      // It is not theirs to see any more, which the event said that did it.
      if (!(error instanceof ApiProblem && error.status === 404)) notices.failed(error)
    }
  }

  watch(
    () => notices.undone,
    () => void refresh(),
  )

  return {
    filter,
    items,
    count,
    next,
    state,
    failure,
    at,
    cursor,
    ringed,
    chosen,
    all,
    chosenCount,
    isChosen,
    opened,
    open,
    ended,
    meant,
    show,
    reload,
    more,
    standOn,
    step,
    openCopy,
    openAlone,
    close,
    toggle,
    chooseTo,
    chooseAll,
    unchoose,
    goOn,
  }
})
