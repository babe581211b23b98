import { defineStore } from 'pinia'
import { isDelivered, isKeptAway } from '#core/policy'
import { api, type CopyView, type CopyQuery, type KeptLane, type MovedCopies } from '~/api/client'

export const LANE_OF_MOVE: Record<KeptLane, string> = {
  inbox: 'Inbox',
  lowPriority: 'Low priority',
  spam: 'Spam',
  quarantine: 'quarantine',
  bin: 'Bin',
}

/** What is done to the meant copies. Whoever does it stands on the next row at once; the list of messages is read anew behind them. */
export const useMailActions = defineStore('mailActions', () => {
  const mail = useMailStore()
  const notices = useNoticeStore()
  const work = useJobStore()
  const router = useRouter()

  // At once, before the lines are asked for anew: the next key must not be told that somebody else was faster.
  function keepVersions({ copies }: MovedCopies) {
    const versions = new Map(copies.map(c => [c.id, c.version]))
    for (const line of [...mail.items, ...(mail.opened ? [mail.opened] : [])]) line.version = versions.get(line.id) ?? line.version
  }

  /** What has to be seen before mail is let in that may be forged. */
  const question = shallowRef<ForgeryQuestion | null>(null)

  /**
   * Does something to copies; the next row is selected at once, unless they may be asked about, or stay where they are.
   * @param unless a problem that is told in another way
   */
  async function apply(
    copies: readonly CopyView[],
    what: (ids: number[], versions: Record<number, number>) => Promise<void>,
    { stays = false, unless = () => false }: { stays?: boolean, unless?: (problem: unknown) => boolean } = {},
  ) {
    question.value = null
    const versions = Object.fromEntries(copies.map(c => [c.id, c.version]))
    const going = stays ? undefined : mail.goOn(copies)
    try {
      await what(
        copies.map(c => c.id),
        versions,
      )
    }
    catch (error) {
      if (unless(error)) return
      notices.failed(error)
    }
    await going
    await mail.reload()
  }

  let beginning = false
  /** The same to all that match: it goes on as a job. A second press before it has begun is no second job. */
  async function actOnAll(
    what: (query: CopyQuery & { except: number[] }) => Promise<{ eventId: number, job: number }>,
    words: string,
    unless: (problem: unknown) => boolean = () => false,
  ) {
    if (beginning) return
    beginning = true
    const { limit: _, cursor: __, ...query } = mail.filter
    const except = [...mail.chosen]
    try {
      const { job, eventId: eventId } = await what({ ...query, except })
      await mail.goOn([])
      work.follow(job, { eventId: eventId, words, ended: () => void mail.reload() })
    }
    catch (error) {
      if (!unless(error)) notices.failed(error)
    }
    finally {
      beginning = false
    }
  }

  /** @param quarantine which, where it is one */
  async function move(
    lane: KeptLane,
    copies: readonly CopyView[],
    quarantine?: { id: string, name: string },
    confirmed: number[] = [],
  ): Promise<void> {
    const where = quarantine ? `quarantine “${quarantine.name}”` : LANE_OF_MOVE[lane]
    const to = { lane, quarantine: quarantine?.id, confirmed }
    const verb = copies.every(c => c.lane === 'quarantine') ? 'Release' : 'Move'
    if (mail.all) {
      const ask = (problem: unknown) => asksAbout(problem, verb, 0, (ids, left) => {
        mail.chosen = new Set([...mail.chosen, ...left])
        void move(lane, copies, quarantine, [...confirmed, ...ids])
      })
      return actOnAll(query => api.moveAll(query, to), `Moved {n} to ${where}.`, ask)
    }
    const isAsked = isDelivered(lane) && copies.some(c => c.doubted && isKeptAway(c.lane))
    const ask = (problem: unknown) => asksAbout(problem, verb, copies.length, (ids, left) => {
      const going = copies.filter(c => !left.includes(c.id))
      if (going.length) void move(lane, going, quarantine, [...confirmed, ...ids])
    })
    await apply(copies, async (ids, versions) => {
      const done = await api.move(ids, to, versions)
      if (isAsked) await mail.goOn(copies)
      const { notReleased = [] } = done
      keepVersions(done)
      const isRelease = lane === 'inbox' && copies.every(c => c.lane === 'quarantine')
      const how = isRelease ? `Released ${namedCopies(copies)}` : `Moved ${namedCopies(copies)} to ${where}`
      notices.say(
        done.changed
          ? `${how}.${notReleasedWords(notReleased.length, notReleased[0]?.why)}`
          : `${namedCopies(copies)}: already in ${where}.`,
        done.eventId,
      )
    }, { stays: isAsked, unless: ask })
  }

  /** Whether a problem is the question about forgeries: then it is asked. @param of how many messages; 0 where that is not known */
  function asksAbout(problem: unknown, verb: string, of: number, again: (confirmed: number[], left: number[]) => void): boolean {
    const forgeries = forgeriesIn(problem)
    if (!forgeries) return false
    const ids = forgeries.map(f => f.id)
    const go = (confirmed: number[], left: number[]) => {
      question.value = null
      again(confirmed, left)
    }
    const others = Math.max(0, of - ids.length)
    question.value = { forgeries, verb, others, anyway: () => go(ids, []), without: () => go([], ids) }
    return true
  }

  async function deletePermanently(copy: CopyView) {
    await apply([copy], async () => {
      await api.deletePermanently(copy)
      notices.say(`Deleted permanently: ${namedCopies([copy])}.`)
    })
  }

  async function requestRelease(copies: readonly CopyView[], note: string) {
    await apply(copies, async (ids) => {
      const done = await api.requestRelease(ids, note)
      notices.say(
        done.asked
          ? `Requested release of ${namedCopies(copies)}. The answer appears in Review.`
          : `Release of ${namedCopies(copies)} was already requested.`,
        done.eventId,
      )
    }, { stays: true })
  }

  async function mark(value: 'wanted' | 'unwanted' | null, copies: readonly CopyView[]) {
    if (mail.all)
      return actOnAll(query => api.markAll(query, value), value ? `Marked {n} as ${value}.` : 'Removed the mark of {n}.')
    await apply(copies, async (ids, versions) => {
      const done = await api.mark(ids, value, versions)
      keepVersions(done)
      const said = value ? `Marked ${namedCopies(copies)} as ${value}.` : `Removed the mark of ${namedCopies(copies)}.`
      notices.say(
        done.changed ? said : `${namedCopies(copies)}: ${value ? `already marked as ${value}` : 'not marked'}.`,
        done.eventId,
        fixesOf(copies, value),
      )
    })
  }

  // One stands on the next message already: what has just been called a mistake is fixed from here.
  function fixesOf([copy, ...others]: readonly CopyView[], judgement: 'wanted' | 'unwanted' | null) {
    if (!copy || others.length || !wentWrong({ ...copy, judgement, judgementStrength: 'said' })) return null
    const query = new URLSearchParams(router.currentRoute.value.query as Record<string, string>)
    query.set('open', String(copy.id))
    query.set('fix', 'it')
    return { to: `/mail?${query}`, text: 'Suggest fixes' }
  }

  return { question, move, mark, requestRelease, deletePermanently }
})
