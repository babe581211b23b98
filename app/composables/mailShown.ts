import { FILED, LANE_NAMES } from '#core/words'
import { KEPT_LANES, isKeptAway } from '#core/policy'
import type { CopyQuery } from '~/api/client'

/** What the line above the list of messages says; it stands in the address, so that it can be kept and passed on. */
export interface Shown {
  lane: string
  since: string
  until: string
  who: string
  judgement: string
  words: string
  touchedBy: string
  /** What an event moved or marked. */
  eventId: string
  /** "important", "tag:NAME", "folder:NAME", or empty. */
  label: string
}
const KEYS: readonly (keyof Shown)[] = ['lane', 'since', 'until', 'who', 'judgement', 'words', 'touchedBy', 'eventId', 'label']

export const SHOWN_LANES: { value: string, name: string }[] = [
  { value: '', name: 'All locations' },
  ...KEPT_LANES.flatMap(lane => [
    { value: lane as string, name: LANE_NAMES[lane] },
    ...(lane === 'inbox' ? [{ value: 'filed', name: FILED }] : []),
  ]),
  { value: KEPT_LANES.filter(isKeptAway).join(), name: 'All stopped mail' },
  { value: 'refused', name: 'Refused' },
  { value: 'discarded', name: 'Discarded or deleted' },
]
export const SHOWN_JUDGEMENTS = [
  { value: '', name: 'Marked: any' },
  { value: 'wanted', name: 'Marked wanted' },
  { value: 'unwanted', name: 'Marked unwanted' },
  { value: 'unmarked', name: 'Not marked' },
]

/** What is shown, and how it is narrowed. */
export function useMailShown() {
  const route = useRoute()
  const router = useRouter()
  const shown = computed<Shown>(() => {
    const one = (key: string) => (typeof route.query[key] === 'string' ? route.query[key] : '')
    return Object.fromEntries(KEYS.map(key => [key, one(key)])) as unknown as Shown
  })
  const isNarrowed = computed(() => KEYS.some(key => shown.value[key]))

  function narrow(change: Partial<Shown>) {
    void router.replace({ query: Object.fromEntries(Object.entries({ ...shown.value, ...change }).filter(([, v]) => v)) })
  }
  function widen() {
    void router.replace({ query: {} })
  }
  return { shown, isNarrowed, narrow, widen }
}

/** Filed mail is out of Inbox, although it is a flag of that location. */
function locationAsked(location: string): Pick<CopyQuery, 'lane' | 'filed'> {
  if (location === 'filed') return { lane: ['inbox'], filed: true }
  return location ? { lane: location.split(','), ...(location === 'inbox' ? { filed: false } : {}) } : {}
}

/** The same as it is asked for. Days are the recipient's own, and "until" is with that day. */
export function queryOf(s: Shown): CopyQuery {
  const label = /^(tag|folder):(.+)$/s.exec(s.label)
  return {
    ...locationAsked(s.lane),
    recipient: s.who || undefined,
    judgement: s.judgement || undefined,
    words: s.words || undefined,
    touchedBy: s.touchedBy || undefined,
    eventId: /^\d{1,15}$/.test(s.eventId) ? Number(s.eventId) : undefined,
    important: s.label === 'important' || undefined,
    tag: label?.[1] === 'tag' ? label[2] : undefined,
    folder: label?.[1] === 'folder' ? label[2] : undefined,
    ...daysAsked(s.since, s.until),
  }
}
