import { defineStore } from 'pinia'
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

  /** Does something to copies: whoever sees it done stands on the next row already. */
  async function apply(copies: readonly CopyView[], what: (ids: number[], versions: Record<number, number>) => Promise<void>) {
    const versions = Object.fromEntries(copies.map(c => [c.id, c.version]))
    const going = mail.goOn(copies)
    try {
      await what(
        copies.map(c => c.id),
        versions,
      )
    }
    catch (error) {
      notices.failed(error)
    }
    await going
    await mail.reload()
  }

  let beginning = false
  /** The same to all that match: it goes on as a job. A second press before it has begun is no second job. */
  async function actOnAll(what: (query: CopyQuery & { except: number[] }) => Promise<{ eventId: number, job: number }>, words: string) {
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
      notices.failed(error)
    }
    finally {
      beginning = false
    }
  }

  /** @param quarantine which, where it is one */
  async function move(lane: KeptLane, copies: readonly CopyView[], quarantine?: { id: string, name: string }) {
    const where = quarantine ? `quarantine “${quarantine.name}”` : LANE_OF_MOVE[lane]
    if (mail.all) return actOnAll(query => api.moveAll(query, lane, quarantine?.id), `Moved {n} to ${where}.`)
    await apply(copies, async (ids, versions) => {
      const done = await api.move(ids, lane, versions, quarantine?.id)
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
    })
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

  return { move, mark, requestRelease }
})
