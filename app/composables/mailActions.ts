import { LANE_NAMES } from '#core/words'
import { isKeptHere, KEPT_LANES, type KeptLane } from '#core/policy'
import { counted, plural } from '#core/wording'
import type { CopyView } from '~/api/client'

/** The keys 1 to 5, in the order of the lanes. */
export const MOVES = KEPT_LANES.map((lane, i) => ({ lane, key: String(i + 1) }))

const NOTHING_SELECTED = 'No message selected. Use ↑ ↓ to select one, Enter to open it, Space to select several.'

/** What can be done with what is meant, and why not the rest of it: no key is offered that would be refused. */
export function useMailActionList() {
  const mail = useMailStore()
  const actions = useMailActions()
  const session = useSessionStore()
  const notices = useNoticeStore()
  const directory = useDirectoryStore()
  const holds = computed(() => session.can('hold and release'))
  /** The meant copies when it was asked in which quarantine they are to be held. */
  const holding = ref<CopyView[] | null>(null)

  const isHere = (c: CopyView) => isKeptHere(c.lane)
  const isMovable = (c: CopyView) => isHere(c) && (holds.value || c.lane !== 'quarantine')
  const movable = computed(() => mail.meant.filter(isMovable))

  /** Why some or all of it cannot be moved, in a sentence; null where all can. */
  const stays = computed<string | null>(() => {
    const held = mail.meant.filter(c => isHere(c) && !isMovable(c)).length
    const gone = mail.meant.filter(c => !isHere(c))
    const of = mail.meant.length > 1 || mail.all
    if (held && !of) return 'This message is held in quarantine. Request its release in Review.'
    if (gone.length && !of) {
      const what = gone[0]!.gone === 'erased' ? 'deleted permanently' : LANE_NAMES[gone[0]!.lane].toLowerCase()
      return `This message was ${what}, so it cannot be moved.`
    }
    const parts = [
      ...(held ? [`${counted(held, 'message')} ${plural(held, 'is', 'are')} held in quarantine`] : []),
      ...(gone.length ? [`${counted(gone.length, 'message')} ${plural(gone.length, 'was', 'were')} refused, discarded or deleted`] : []),
    ]
    return parts.length ? `Some cannot be moved: ${parts.join('; ')}.` : null
  })

  const moves = computed(() => (movable.value.length ? MOVES.filter(m => holds.value || m.lane !== 'quarantine') : []))

  function mark(value: 'wanted' | 'unwanted' | null) {
    if (!mail.meant.length) return notices.say(NOTHING_SELECTED)
    void actions.mark(value)
  }

  function move(lane: KeptLane) {
    if (!mail.meant.length) return notices.say(NOTHING_SELECTED)
    if (lane === 'quarantine' && !holds.value) return notices.say('Only reviewers and administrators can move mail to quarantine.')
    if (!movable.value.length) return notices.say(stays.value!)
    const { quarantines } = directory.names
    if (lane === 'quarantine' && quarantines.length > 1) {
      holding.value = movable.value
      return
    }
    void actions.move(lane, movable.value)
  }

  function hold(id: string) {
    const copies = holding.value
    const there = directory.names.quarantines.find(q => q.id === id)
    holding.value = null
    if (copies && there) void actions.move('quarantine', copies, there)
  }

  const leave = () => (holding.value = null)

  // Whatever becomes meant instead: the question was about something else.
  watch(() => mail.meant.map(c => c.id).join(), () => (holding.value = null))

  const sayNothingMeant = () => notices.say(NOTHING_SELECTED)

  return { sayNothingMeant, moves, movable, stays, holding, mark, move, hold, leave }
}
