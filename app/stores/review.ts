import { defineStore } from 'pinia'
import { useDocumentVisibility, useIntervalFn } from '@vueuse/core'
import {
  api,
  type CopyDetail,
  type KeptLane,
  type PossibleForgery,
  type ReviewPlaceView,
  type ReviewGroup,
  type ReviewItemView,
  type ReviewPlace,
} from '~/api/client'

/** What of a place is gone through. */
export type Going = { kind: 'group', key: string } | { kind: 'informative' } | { kind: 'soon' }

const LOOK_EVERY = 60_000
const BATCH_SIZE = 50
/** Copies of one group that are settled in one event. */
const MAX_BATCH_SIZE = 2000

/** Where copies go that are wanted, and that are not, from each place. What is marked where it should be stays there. */
const WHERE: Record<ReviewPlaceView['lane'], Record<'wanted' | 'unwanted', KeptLane>> = {
  quarantine: { wanted: 'inbox', unwanted: 'bin' },
  spam: { wanted: 'inbox', unwanted: 'spam' },
  lowPriority: { wanted: 'inbox', unwanted: 'spam' },
  bin: { wanted: 'inbox', unwanted: 'bin' },
}

/** What is gone through where mail is kept away: places, their groups, and one copy at a time. What is shown is what is meant. */
export const useReviewStore = defineStore('review', () => {
  const notices = useNoticeStore()
  const counts = ref({ waiting: 0, asked: 0, news: 0 })
  const places = shallowRef<ReviewPlaceView[] | null>(null)
  const place = ref<ReviewPlace>({ lane: 'quarantine', quarantine: 'general', by: 'clause' })
  const groups = shallowRef<ReviewGroup[]>([])
  const total = ref(0)
  const more = ref(0)
  const going = ref<Going | null>(null)
  const items = shallowRef<ReviewItemView[]>([])
  const next = ref<string | null>(null)
  const at = ref(0)
  /** What keys and buttons act on: the copy that is shown, all of the group, or its likely mistakes. */
  const selected = ref<'one' | 'all' | 'likely'>('one')
  /** All of the group is also what is not verified. */
  const withDoubted = ref(false)
  const question = shallowRef<ForgeryQuestion | null>(null)
  const copy = shallowRef<CopyDetail | null>(null)
  const state = ref<'reading' | 'ready' | 'failed'>('reading')
  const failure = ref('')

  const isHere = (p: ReviewPlaceView) => p.lane === place.value.lane && p.quarantine === (place.value.quarantine ?? null)
  const here = computed(() => places.value?.find(isHere))
  const group = computed(() => {
    const now = going.value
    return now?.kind === 'group' ? (groups.value.find(g => g.key === now.key) ?? null) : null
  })
  const shown = computed<ReviewItemView | null>(() => items.value[at.value] ?? null)
  /** So many copies are gone through, also those that are not read yet. */
  const howMany = computed(() => {
    const unread = going.value?.kind === 'soon' && next.value !== null
    return group.value?.copies ?? (unread ? (here.value?.soon ?? 0) : items.value.length)
  })
  /** Those that are selected; the one that is shown only once its text is there. */
  const meant = computed<readonly ReviewItemView[]>(() => {
    if (!shown.value || copy.value?.id !== shown.value.id) return []
    if (selected.value === 'one') return [shown.value]
    if (selected.value === 'likely') return items.value.filter(i => i.likely)
    return withDoubted.value ? items.value : items.value.filter(i => !i.doubted)
  })

  /** What the server lets one do with all that is meant; to decline a request is to say why it goes to the bin. */
  const can = computed(() => {
    const all = (allowed: (item: ReviewItemView) => boolean) => meant.value.length > 0 && meant.value.every(allowed)
    const { wanted, unwanted } = WHERE[place.value.lane]
    return {
      wanted: all(c => c.can.move.includes(wanted)),
      unwanted: all(c => c.can.move.includes(unwanted) || c.can.decline),
    }
  })

  let asked = 0
  /** Reads a place anew. What is gone through stays, where it is still there. */
  async function load(to: ReviewPlace = place.value, then?: Going) {
    const turn = ++asked
    const isOther = (['lane', 'quarantine', 'by', 'words'] as const).some(part => to[part] !== place.value[part])
    place.value = to
    if (isOther) [going.value, items.value, copy.value, at.value, selected.value, state.value] = [null, [], null, 0, 'one', 'reading']
    try {
      const [found, all] = await Promise.all([api.reviewGroups(to), api.reviewPlaces()])
      if (turn !== asked) return
      places.value = all
      groups.value = found.groups
      total.value = found.total
      more.value = found.more
      failure.value = ''
      state.value = 'ready'
      const now = going.value
      const still = now?.kind === 'group' && !found.groups.some(g => g.key === now.key) ? null : now
      const first = found.groups[0]
      await go(then ?? still ?? (first ? { kind: 'group', key: first.key } : null), shown.value?.id)
    }
    catch (error) {
      if (turn !== asked) return
      failure.value = error instanceof Error ? error.message : String(error)
      state.value = 'failed'
    }
  }

  function queryOf(what: Going) {
    return { ...place.value, ...(what.kind === 'group' ? { key: what.key } : { [what.kind]: true }) }
  }

  let reading = 0
  /** Goes through a group, or through what leaves soon or says most. @param stay the copy that is shown, where it is still among them */
  async function go(what: Going | null, stay?: number) {
    const turn = ++reading
    selected.value = 'one'
    question.value = null
    going.value = what
    if (!what) {
      items.value = []
      copy.value = null
      return
    }
    try {
      const found = await api.reviewItems({ ...queryOf(what), limit: BATCH_SIZE })
      if (turn !== reading) return
      // Someone else has finished it.
      if (!found.items.length && what.kind === 'group') {
        groups.value = groups.value.filter(g => g.key !== what.key)
        const [first] = groups.value
        return await go(first ? { kind: 'group', key: first.key } : null)
      }
      items.value = found.items
      next.value = found.next
      at.value = Math.max(0, found.items.findIndex(i => i.id === stay))
      await open()
    }
    catch (error) {
      if (turn === reading) notices.failed(error)
    }
  }

  async function readOn() {
    const cursor = next.value
    if (!cursor || !going.value) return
    const turn = reading
    const found = await api.reviewItems({ ...queryOf(going.value), limit: 200, cursor })
    if (turn !== reading) return
    const known = new Set(items.value.map(i => i.id))
    items.value = [...items.value, ...found.items.filter(i => !known.has(i.id))]
    next.value = found.next
  }

  let opening = 0
  async function open() {
    const turn = ++opening
    const id = shown.value?.id
    if (copy.value?.id === id) return
    copy.value = null
    if (id === undefined) return
    try {
      const found = await api.copy(id)
      if (turn === opening) copy.value = found
    }
    catch (error) {
      if (turn === opening) notices.failed(error)
    }
  }

  /** The next copy, or the one before; a chosen group is not chosen any more. */
  async function step(by: number) {
    selected.value = 'one'
    question.value = null
    if (at.value + by >= items.value.length) await readOn()
    at.value = Math.max(0, Math.min(items.value.length - 1, at.value + by))
    await open()
  }

  async function stepGroup(by: number) {
    const now = groups.value.findIndex(g => g.key === (going.value?.kind === 'group' ? going.value.key : null))
    const to = groups.value[Math.max(0, Math.min(groups.value.length - 1, now + by))]
    if (to && to !== groups.value[now]) await go({ kind: 'group', key: to.key })
  }

  /**
   * Selects all of the group or its likely mistakes, which come first in it; the same once more selects none of them. What is not
   * verified is no part of all unless it is asked for.
   */
  async function select(which: 'all' | 'likely') {
    withDoubted.value = false
    if (selected.value === which) {
      selected.value = 'one'
      return
    }
    const isMissing = () => next.value !== null && items.value.length < MAX_BATCH_SIZE && (which === 'all' || items.value.at(-1)?.likely)
    try {
      while (isMissing()) await readOn()
    }
    catch (error) {
      notices.failed(error)
      return
    }
    const found = which === 'all' ? items.value : items.value.filter(i => i.likely)
    if (found.length > (which === 'all' ? 1 : 0)) selected.value = which
  }

  let running: Promise<unknown> = Promise.resolve()

  /** Lets what is meant out as wanted, or keeps it away as unwanted; the next one is shown at once, unless something is asked first. */
  function settle(mark: 'wanted' | 'unwanted', reason?: string): Promise<unknown> {
    return settleCopies(meant.value.slice(0, MAX_BATCH_SIZE), mark, { reason })
  }

  interface Settling {
    reason?: string
    /** Ids of those that may be forged, as they were shown. */
    confirmed?: number[]
  }

  function settleCopies(copies: readonly ReviewItemView[], mark: 'wanted' | 'unwanted', { reason, confirmed }: Settling): Promise<unknown> {
    question.value = null
    if (!copies.length) return running
    const { lane } = place.value
    const to = WHERE[lane][mark]
    const isAsked = mark === 'wanted' && lane !== 'lowPriority' && copies.some(c => c.doubted)
    running = running.then(async () => {
      try {
        const versions = Object.fromEntries(copies.map(c => [c.id, c.version]))
        const { eventId, notReleased = [] } = await api.settle(copies.map(c => c.id), { lane: to, mark, reason, confirmed }, versions)
        notices.say(`${wordsOf(lane, mark, namedCopies(copies))}${notReleasedWords(notReleased.length, notReleased[0]?.why)}`, eventId)
        if (isAsked) leave(copies)
        void renumber()
      }
      catch (error) {
        const forgeries = forgeriesIn(error)
        if (forgeries) return ask(copies, forgeries, mark)
        notices.failed(error)
        await load()
      }
    })
    if (!isAsked) leave(copies)
    return running
  }

  function ask(copies: readonly ReviewItemView[], forgeries: readonly PossibleForgery[], mark: 'wanted' | 'unwanted') {
    const ids = forgeries.map(f => f.id)
    const others = copies.filter(c => !ids.includes(c.id))
    question.value = {
      forgeries,
      verb: place.value.lane === 'quarantine' ? 'Release' : 'Move',
      others: others.length,
      anyway: () => void settleCopies(copies, mark, { confirmed: ids }),
      without: () => void settleCopies(others, mark, {}),
    }
  }

  function wordsOf(lane: ReviewPlaceView['lane'], mark: 'wanted' | 'unwanted', what: string): string {
    if (mark === 'wanted')
      return lane === 'quarantine' ? `Released ${what}, marked as wanted.` : `Moved ${what} to Inbox, marked as wanted.`
    if (lane === 'quarantine') return `Moved ${what} to Bin, marked as unwanted.`
    return lane === 'lowPriority'
      ? `Moved ${what} to Spam, marked as unwanted.`
      : `Marked ${what} as unwanted.`
  }

  /** Takes copies out of what is gone through; what comes behind them is shown. */
  function leave(copies: readonly ReviewItemView[]) {
    const gone = new Set(copies.map(c => c.id))
    const before = items.value.slice(0, at.value).filter(i => !gone.has(i.id)).length
    items.value = items.value.filter(i => !gone.has(i.id))
    at.value = Math.max(0, Math.min(items.value.length - 1, before))
    selected.value = 'one'
    total.value = Math.max(0, total.value - gone.size)
    const key = going.value?.kind === 'group' ? going.value.key : null
    const likely = copies.filter(c => c.likely).length
    const doubted = copies.filter(c => c.doubted).length
    const without = (g: ReviewGroup) => ({
      ...g,
      copies: g.copies - gone.size,
      likelyWanted: Math.max(0, g.likelyWanted - likely),
      doubted: Math.max(0, g.doubted - doubted),
    })
    groups.value = groups.value.flatMap(g => (g.key !== key ? [g] : g.copies > gone.size ? [without(g)] : []))
    if (items.value.length) void open()
    else void endOfGroup()
    if (items.value.length < BATCH_SIZE / 4) void readOn().catch(error => notices.failed(error))
  }

  /** Numbers of places and groups as they are now; what is gone through stays as it is. */
  async function renumber() {
    const turn = asked
    try {
      const [found, all] = await Promise.all([api.reviewGroups(place.value), api.reviewPlaces()])
      // Someone went elsewhere meanwhile.
      if (turn !== asked) return
      places.value = all
      groups.value = found.groups
      total.value = found.total
      more.value = found.more
    }
    catch (error) {
      // What was done is done and said; the numbers come with the next look.
      console.warn(error)
    }
  }

  async function endOfGroup() {
    copy.value = null
    // What is being settled has to be so before the next group is read.
    await running
    await load()
  }

  async function count() {
    if (!useSessionStore().person) return
    try {
      counts.value = await api.reviewCount()
    }
    catch (error) {
      // The number stays as it was; the page itself says what is wrong.
      console.warn(error)
    }
  }

  /** Keeps the number in the line above up to date, also for whoever stays on one page. */
  function follow() {
    const visibility = useDocumentVisibility()
    useIntervalFn(() => visibility.value === 'visible' && void count(), LOOK_EVERY)
    watch(() => notices.current, () => void count())
    void count()
  }

  /** Its recipient asks for release of what is shown: it stays there, until they go on. */
  async function request(note: string) {
    const item = shown.value
    if (!item) return
    try {
      const { eventId, asked } = await api.requestRelease([item.id], note)
      notices.say(asked ? 'Release requested. The answer appears here.' : 'You have already requested its release.', eventId)
      const mine = { id: 0, by: '', note, mine: true }
      items.value = items.value.map(i => (i.id === item.id ? { ...i, asked: mine, releaseRequested: true } : i))
      void renumber()
    }
    catch (error) {
      notices.failed(error)
    }
  }

  const waiting = computed(() => counts.value.waiting + counts.value.news)
  return {
    counts, waiting, places, place, here, groups, total, more, going, group, howMany, items, at, shown, meant, can, selected, copy, state,
    failure, withDoubted, question,
    load, go, step, stepGroup, select, settle, request, leave, follow, count,
  }
})
