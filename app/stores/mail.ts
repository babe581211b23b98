import { defineStore } from 'pinia'
import { api, type CopyCount, type CopyDetail, type CopyLine, type CopyQuery, type Moved, type KeptLane } from '~/api/client'

const LANE_OF_MOVE: Record<KeptLane, string> = {
  'inbox': 'the inbox',
  'slow lane': 'the slow lane',
  'spam': 'spam',
  'quarantine': 'quarantine',
  'bin': 'the bin',
}

/** The ledger: which copies are shown, where the cursor stands, which are chosen, and the one that is open. */
export const useMailStore = defineStore('mail', () => {
  const notices = useNoticeStore()
  const filter = ref<CopyQuery>({})
  const items = ref<CopyLine[]>([])
  /** How many there are; null until it is known, which the lines do not wait for. */
  const count = ref<CopyCount | null>(null)
  const next = ref<string | null>(null)
  const state = ref<'loading' | 'ready' | 'failed'>('loading')
  const failure = ref('')
  const cursor = ref(0)
  const chosen = ref(new Set<number>())
  const open = ref<CopyDetail | null>(null)
  let asked = 0
  let askedOpen = 0

  async function show(wanted: CopyQuery) {
    filter.value = wanted
    chosen.value = new Set()
    cursor.value = 0
    await reload(true)
  }

  async function reload(fresh = false) {
    const mine = ++asked
    if (fresh) state.value = 'loading'
    void recount(mine, fresh)
    try {
      const page = await api.copies({ ...filter.value, limit: fresh ? 60 : Math.min(200, Math.max(60, items.value.length)) })
      if (mine !== asked) return
      items.value = page.items
      next.value = page.next
      cursor.value = Math.min(cursor.value, Math.max(0, page.items.length - 1))
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
      const page = await api.copies({ ...filter.value, cursor: next.value })
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

  async function openCopy(id: number) {
    const mine = ++askedOpen
    try {
      const detail = await api.copy(id)
      if (mine === askedOpen) open.value = detail
    }
    catch (error) {
      notices.failed(error)
    }
  }

  function close() {
    askedOpen++
    open.value = null
  }

  function toggle(id: number) {
    const now = new Set(chosen.value)
    if (!now.delete(id)) now.add(id)
    chosen.value = now
  }

  /** What an act is about: the chosen ones, else the one at the cursor. */
  const subject = computed(() => {
    const many = items.value.filter(i => chosen.value.has(i.id))
    const at = items.value[cursor.value]
    return many.length ? many : at ? [at] : []
  })

  const versionsOf = (copies: readonly CopyLine[]) => Object.fromEntries(copies.map(c => [c.id, c.version]))
  const named = (copies: readonly CopyLine[]) =>
    copies.length === 1 ? `“${copies[0]!.subject || 'no subject'}”` : `${copies.length} messages`

  // At once, before the lines are asked for anew: the next key must not be told that somebody else was faster.
  function keepVersions({ copies }: Moved) {
    const versions = new Map(copies.map(c => [c.id, c.version]))
    for (const line of items.value) line.version = versions.get(line.id) ?? line.version
  }

  async function move(lane: KeptLane) {
    const copies = subject.value
    if (!copies.length) return
    await act(async () => {
      const done = await api.move(
        copies.map(c => c.id),
        lane,
        versionsOf(copies),
      )
      keepVersions(done)
      notices.say(
        done.changed
          ? `Sent ${named(copies)} to ${LANE_OF_MOVE[lane]}.${held(done, copies)}`
          : `${named(copies)}: in ${LANE_OF_MOVE[lane]} already.`,
        done.actId,
      )
    })
  }

  // A release is not the last word where somebody else stops the copy too.
  function held({ elsewhere = [] }: Moved, copies: readonly CopyLine[]): string {
    if (!elsewhere.length) return ''
    return ` ${copies.length === 1 ? 'Another’s stop stands' : `For ${elsewhere.length} of them another’s stop stands`}: ${elsewhere[0]!.why}`
  }

  async function judge(value: 'wanted' | 'unwanted' | null) {
    const copies = subject.value
    if (!copies.length) return
    await act(async () => {
      const done = await api.judge(
        copies.map(c => c.id),
        value,
        versionsOf(copies),
      )
      keepVersions(done)
      const said = value ? `Judged ${named(copies)} ${value}.` : `What was said of ${named(copies)} is taken back.`
      notices.say(done.changed ? said : `${named(copies)}: ${value ? `judged ${value} already` : 'nothing was said of it'}.`, done.actId)
    })
  }

  async function act(what: () => Promise<void>) {
    try {
      await what()
    }
    catch (error) {
      notices.failed(error)
    }
    await refresh()
  }

  /** Shows what is true now, keeping cursor and choice where they can stay. */
  async function refresh() {
    const kept = chosen.value
    await reload()
    chosen.value = new Set([...kept].filter(id => items.value.some(i => i.id === id)))
    if (open.value) await openCopy(open.value.id)
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
    cursor,
    chosen,
    open,
    subject,
    show,
    reload,
    refresh,
    more,
    openCopy,
    close,
    toggle,
    move,
    judge,
  }
})
