import { decisionSentence } from '#core/words'
import { defineStore } from 'pinia'
import { counted, numberWords } from '#core/wording'
import { api, type JobView, type SavedChanges } from '~/api/client'

/** What is said of a change that was saved. */
interface Said {
  words: string
  /** Where it changed nothing. */
  nothing?: string
  /** Once its job has moved what is here. */
  ended?: () => void
}

interface Followed {
  job: JobView
  /** What it did, with {n} for how many messages; null where that is not known any more. */
  words: string | null
  eventId: number | null
  ended: () => void
}

const OVER = ['done', 'failed', 'cancelled', 'needsConfirmation']
const FOUND_AGAIN = ['many', 'existing', 'save', 'senders']
const count = (n: number) => counted(n, 'message')

/** Long work that was begun here: how far it is, and what it came to. It goes on at the server whether or not anybody looks. */
export const useJobStore = defineStore('jobs', () => {
  const notices = useNoticeStore()
  const directory = useDirectoryStore()
  const going = ref<Followed[]>([])

  /** Follows a job until it has ended, and says then what it did. */
  function follow(id: number, { eventId, words, ended }: { eventId: number | null, words: string | null, ended: () => void }) {
    if (going.value.some(f => f.job.id === id)) return
    const events = new EventSource(`/api/jobs/${id}`)
    events.onmessage = ({ data }: MessageEvent<string>) => {
      const job = JSON.parse(data) as JobView
      const rest = going.value.filter(f => f.job.id !== id)
      if (!OVER.includes(job.state)) {
        going.value = [...rest, { job, words, eventId, ended }]
        return
      }
      events.close()
      going.value = rest
      tell(job, words)
      ended()
    }
    // The browser opens it again by itself; where it may not, the work still goes on.
    events.onerror = () => {
      if (events.readyState === EventSource.CLOSED) going.value = going.value.filter(f => f.job.id !== id)
    }
  }

  /** Says what a change came to, and follows what it does to the mail that is here. */
  function tellSaved({ eventId, job }: Pick<SavedChanges, 'eventId' | 'job'>, { words, nothing = words, ended = () => undefined }: Said) {
    notices.say(eventId === null ? nothing : words, eventId)
    if (job !== null) follow(job, { eventId, words: `${words} Moved {n}.`, ended })
  }

  function tell(job: JobView, words: string | null) {
    const { done, moved, total, state, eventId, error, kind } = job
    if (kind === 'save') return tellChecked(job)
    const all = total ?? done
    const ofAll = moved === all || kind === 'existing' ? count(moved) : `${numberWords(moved)} of ${count(all)}`
    const said = (words ?? 'Processed {n}.').replace('{n}', ofAll)
    if (state === 'failed') return notices.failed(`${error ?? 'The job failed.'} Until then: ${said}`)
    const stayed = kind === 'existing'
      ? staysWords(job)
      : kind === 'senders'
        ? ' Nothing else changed.'
        : moved < done
          ? ' The others were skipped: already there, held, requested or deleted.'
          : ''
    // A permanent deletion cannot be undone.
    const back = kind !== 'purge' && (kind === 'existing' || moved) ? eventId : null
    const link = back !== null && moved ? { to: `/mail?eventId=${back}`, text: 'Show moved messages' } : null
    notices.say(state === 'cancelled' ? `Stopped. ${said}` : `${said}${stayed}`, back, link)
  }

  /** Of a change whose page was left while all mail was counted. */
  function tellChecked({ state, error, eventId }: JobView) {
    if (state === 'done') return notices.say(eventId === null ? 'Nothing to save: this was already saved.' : 'Your change was saved.', eventId)
    if (state !== 'cancelled') notices.failed(`Your change was not saved: ${error ?? 'it failed.'} Make it again to confirm it.`)
  }

  function staysWords({ stayed: { count: held, first } }: JobView): string {
    const decision = first && { ...first, reasons: first.reason ? [first.reason] : [], decidedBy: first.reason ? 0 : null }
    return notReleasedWords(held, decision ? decisionSentence(decision, directory.names) : '')
  }

  async function stop(id: number) {
    try {
      await api.stopJob(id)
    }
    catch (error) {
      notices.failed(error)
    }
  }

  /** Finds work again that was begun before the page was loaded. */
  async function findAgain() {
    const { items } = await api.jobs({ limit: 20 })
    const shown = items.filter(j => j.mine && FOUND_AGAIN.includes(j.kind) && !OVER.includes(j.state))
    for (const job of shown) follow(job.id, { eventId: job.eventId, words: null, ended: () => undefined })
  }

  function forget() {
    going.value = []
  }

  return { going, follow, tellSaved, stop, findAgain, forget }
})
