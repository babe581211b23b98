import { defineStore } from 'pinia'
import { counted, plural } from '#core/wording'
import { api, ApiProblem, type AuditEventView } from '~/api/client'

interface Notice {
  text: string
  eventId: number | null
  bad: boolean
  /** Where more of it is to be seen. */
  link: { to: string, text: string } | null
}

/** After a reload the keys reach back so far, in milliseconds; what is older is undone where it is named. */
const KEYS_REACH = 3600_000

const backWords = (n: number) => (n ? ` ${counted(n, 'message')} ${plural(n, 'is', 'are')} as before.` : '')

/** The one line at the foot that says what just happened, and the events that can be undone. */
export const useNoticeStore = defineStore('notices', () => {
  const current = ref<Notice | null>(null)
  const undone = ref(0)
  let timer: ReturnType<typeof setTimeout> | undefined

  function show(notice: Notice) {
    current.value = notice
    clearTimeout(timer)
    // What went wrong stays until somebody has read it.
    if (!notice.bad) timer = setTimeout(close, 30_000)
  }

  function say(text: string, eventId: number | null = null, link: Notice['link'] = null) {
    show({ text, eventId, bad: false, link })
  }

  function failed(error: unknown) {
    const text =
      typeof error === 'string' ? error : error instanceof ApiProblem ? error.message : `An error occurred: ${String(error)}`
    show({ text, eventId: null, bad: true, link: null })
  }

  /** One's own events that can still be undone, the newest first: as the server has them, also after a reload. */
  async function lastEvents(limit = 8): Promise<AuditEventView[]> {
    return (await api.auditEvents({ mine: true, undoable: true, limit })).items
  }

  let before = Promise.resolve()
  /** Undoes the last event; pressed twice, the one before it too. */
  function undoLast(): Promise<void> {
    return (before = before.then(undoNewest))
  }

  async function undoNewest() {
    try {
      const [last] = await lastEvents(1)
      if (!last || Date.now() - new Date(last.at).getTime() > KEYS_REACH)
        return say('No action of the last hour can be undone. For older actions see your user menu or the audit log.')
      await undoEvent(last.id)
    }
    catch (error) {
      failed(error)
    }
  }

  let taking = false
  /** @returns whether it is undone */
  async function undoEvent(eventId: number): Promise<boolean> {
    if (taking) return false
    taking = true
    try {
      const done = await api.undo(eventId)
      undone.value++
      show({
        text:
          done.version !== undefined
            ? `Undone. Policy version ${done.version} is active.${backWords(done.changed)}`
            : done.changed
              ? `Undone.${backWords(done.changed)}`
              : 'Undone.',
        eventId: null,
        bad: false,
        link: null,
      })
      return true
    }
    catch (error) {
      failed(error)
      return false
    }
    finally {
      taking = false
    }
  }

  function close() {
    current.value = null
  }

  return { current, undone, say, failed, lastEvents, undoLast, undoEvent, close, forget: close }
})
