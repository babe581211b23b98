import { LANE_NAMES } from '#core/words'
import { KEPT_LANES, type KeptLane } from '#core/policy'
import { counted, plural } from '#core/wording'
import type { CopyView } from '~/api/client'

/** The keys 1 to 5, in the order of the lanes. */
export const MOVES = KEPT_LANES.map((lane, i) => ({ lane, key: String(i + 1) }))

const NOTHING_SELECTED = 'No message selected. Use ↑ ↓ to select one, Enter to open it, Space to select several.'

/** What can be done with what is meant, as the server says of each copy, and why not the rest of it. */
export function useMailActionList() {
  const mail = useMailStore()
  const actions = useMailActions()
  const notices = useNoticeStore()
  const directory = useDirectoryStore()
  /** The meant copies when it was asked in which quarantine they are to be held. */
  const holding = ref<CopyView[] | null>(null)
  /** A note to the reviewer is being written, with which release is requested. */
  const requesting = ref(false)

  /** The one that is to be deleted for good, until that is confirmed. */
  const deleting = ref<CopyView | null>(null)
  const deletable = computed(() => {
    const [one, second] = mail.meant
    return one && !second && !mail.all && one.can.erase ? one : null
  })
  const beginDeletion = () => (deleting.value = deletable.value)
  function deletePermanently() {
    const copy = deleting.value
    deleting.value = null
    if (copy) void actions.deletePermanently(copy)
  }

  const movableTo = (lane: KeptLane) => mail.meant.filter(c => c.can.move.includes(lane))
  const moves = computed(() => MOVES.filter(m => movableTo(m.lane).length))
  const releasable = computed(() => mail.meant.filter(c => c.can.release))
  const requestable = computed(() => mail.meant.filter(c => c.can.requestRelease && !c.can.release))
  /** Those that can be moved nowhere. */
  const fixed = computed(() => mail.meant.filter(c => !c.can.move.length))

  /** Why some or all of it cannot be moved, in a sentence; null where all can. */
  const stays = computed<string | null>(() => {
    const [one] = fixed.value
    if (!one) return null
    if (mail.meant.length === 1 && !mail.all) return whyFixed(one)
    const held = fixed.value.filter(c => c.lane === 'quarantine').length
    const gone = fixed.value.length - held
    const parts = [
      ...(held ? [`${counted(held, 'message')} ${plural(held, 'is', 'are')} held in quarantine`] : []),
      ...(gone ? [`${counted(gone, 'message')} ${plural(gone, 'was', 'were')} refused, discarded or deleted`] : []),
    ]
    return `Some cannot be moved: ${parts.join('; ')}.`
  })

  function whyFixed(copy: CopyView): string {
    if (copy.lane !== 'quarantine')
      return `This message was ${copy.gone === 'erased' ? 'deleted permanently' : LANE_NAMES[copy.lane].toLowerCase()}, so it cannot be moved.`
    if (copy.releaseRequested) return 'Its release was requested. The answer appears in Review.'
    if (copy.can.requestRelease) return 'This message is held in quarantine. A reviewer can release it.'
    return 'Only a reviewer can release this message. Requests are not allowed for this quarantine.'
  }

  function mark(value: 'wanted' | 'unwanted' | null) {
    if (!mail.meant.length) return notices.say(NOTHING_SELECTED)
    void actions.mark(value, mail.meant.filter(c => c.can.mark))
  }

  /** @param quarantine which, where that was chosen already */
  function move(lane: KeptLane, quarantine?: { id: string, name: string }) {
    if (!mail.meant.length) return notices.say(NOTHING_SELECTED)
    const copies = movableTo(lane)
    if (!copies.length) return notices.say(whyNotTo(lane))
    const own = directory.names.quarantines.filter(q => q.reviews)
    if (lane === 'quarantine' && !quarantine && own.length > 1) {
      holding.value = copies
      return
    }
    void actions.move(lane, copies, quarantine ?? (lane === 'quarantine' ? own[0] : undefined))
  }

  function whyNotTo(lane: KeptLane): string {
    if (stays.value) return stays.value
    if (lane === 'quarantine') return 'Only reviewers and administrators can move mail to quarantine.'
    if (mail.meant.some(c => c.can.decline))
      return 'Its release was requested, and the recipient reads the reason: decline it in Review.'
    return 'Only a reviewer of this quarantine can move it there.'
  }

  function hold(id: string) {
    const copies = holding.value
    const there = directory.names.quarantines.find(q => q.id === id)
    holding.value = null
    if (copies && there) void actions.move('quarantine', copies, there)
  }

  const release = () => void actions.move('inbox', releasable.value)

  const beginRequest = () => (requesting.value = true)

  function requestRelease(note: string) {
    requesting.value = false
    void actions.requestRelease(requestable.value, note)
  }

  function leave() {
    holding.value = null
    requesting.value = false
    deleting.value = null
    actions.question = null
  }
  // Whatever becomes meant instead: the question was about something else.
  watch(() => mail.meant.map(c => c.id).join(), leave)

  const sayNothingMeant = () => notices.say(NOTHING_SELECTED)

  return {
    question: computed(() => actions.question),
    sayNothingMeant, moves, releasable, requestable, stays, holding, requesting, mark, move, hold, release,
    beginRequest,
    requestRelease, leave,
    deletable, deleting, beginDeletion, deletePermanently,
  }
}
