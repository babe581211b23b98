import { defineStore } from 'pinia'
import { api, ApiProblem } from '~/api/client'

interface Notice {
  text: string
  actId: number | null
  bad: boolean
}

/** The one line at the foot that says what just happened, and the acts that can be taken back. */
export const useNoticeStore = defineStore('notices', () => {
  const current = ref<Notice | null>(null)
  const acts: number[] = []
  const undone = ref(0)
  let timer: ReturnType<typeof setTimeout> | undefined

  function show(notice: Notice) {
    current.value = notice
    clearTimeout(timer)
    // What went wrong stays until somebody has read it.
    if (!notice.bad) timer = setTimeout(close, 12_000)
  }

  function say(text: string, actId: number | null = null) {
    if (actId) acts.push(actId)
    show({ text, actId, bad: false })
  }

  function failed(error: unknown) {
    show({ text: error instanceof ApiProblem ? error.message : `Something went wrong: ${String(error)}`, actId: null, bad: true })
  }

  async function takeBack() {
    const act = acts.at(-1)
    if (!act) return say('There is nothing to take back.')
    try {
      const done = await api.undo(act)
      acts.pop()
      undone.value++
      show({
        text: done.version === undefined
          ? `Taken back: ${done.changed === 1 ? 'one message is' : `${done.changed} messages are`} as before.`
          : `Taken back: lists and rules are as before, in force as version ${done.version}.`,
        actId: null,
        bad: false,
      })
    }
    catch (error) {
      acts.pop()
      failed(error)
    }
  }

  function close() {
    current.value = null
  }

  function forget() {
    acts.length = 0
    close()
  }

  return { current, undone, say, failed, takeBack, close, forget }
})
