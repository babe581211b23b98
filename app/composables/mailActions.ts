import { LANE_NAMES } from '#core/words'
import { isKeptHere, KEPT_LANES, type KeptLane } from '#core/policy'
import type { CopyView } from '~/api/client'

/** The keys 1 to 5, in the order of the lanes. */
export const MOVES = KEPT_LANES.map((lane, i) => ({ lane, key: String(i + 1) }))

const NOTHING = 'Nothing is meant yet: stand on a message with ↑ ↓, open one with Enter, or choose some with Space.'

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
    if (held && !of) return 'It is held in a quarantine: a reviewer or an administrator releases it from there.'
    if (gone.length && !of) return `It was ${gone[0]!.gone ?? LANE_NAMES[gone[0]!.lane]}: nothing of it is here that could be moved.`
    const parts = [
      ...(held ? [`${held} are held, which a reviewer releases`] : []),
      ...(gone.length ? [`of ${gone.length} nothing is here that could be moved`] : []),
    ]
    return parts.length ? `Some stay where they are: ${parts.join('; ')}.` : null
  })

  const moves = computed(() => (movable.value.length ? MOVES.filter(m => holds.value || m.lane !== 'quarantine') : []))

  function mark(value: 'wanted' | 'unwanted' | null) {
    if (!mail.meant.length) return notices.say(NOTHING)
    void actions.mark(value)
  }

  function move(lane: KeptLane) {
    if (!mail.meant.length) return notices.say(NOTHING)
    if (lane === 'quarantine' && !holds.value) return notices.say('Only reviewers and administrators send mail into a quarantine.')
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

  const sayNothingMeant = () => notices.say(NOTHING)

  return { sayNothingMeant, moves, movable, stays, holding, mark, move, hold, leave }
}
