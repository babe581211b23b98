import type { PolicyChange } from '#core/change'
import { api, ApiProblem, type ChangingForm, type ImpactView, type JobView, type SavedChanges, type Since } from '~/api/client'

/** What has to be seen or said before a change goes on. */
export type Question =
  | { kind: 'broad', why: string, impact: ImpactView }
  | { kind: 'erases', why: string, impact: ImpactView }
  | { kind: 'stale', why: string, theirs: Since[] }

/** A change on its way. */
export interface OnItsWay {
  /** The version on which it was made; the one active when the form was opened unless said. */
  base?: number
  changes: PolicyChange[]
  coming: boolean
  existing?: ChangingForm['existing']
  note?: string
}

interface Saving {
  /** @param checking told of the job that counts all mail first, where that takes long */
  send?: (form: ChangingForm, checking: (job: JobView) => void) => Promise<SavedChanges>
  /** What has to be known before: whether stopped mail comes back with it. */
  ready?: () => Promise<unknown>
}

/** Milliseconds after which it is said that all mail is counted. */
const SLOW = 500

/**
 * Puts a change active. What is broad, would leave nothing, or somebody else was faster with, is asked before it goes on; nothing
 * of it is lost meanwhile.
 * @param change what is to be saved, as it stands now
 * @param done what comes after it
 * @param beyond whether it is beyond one's power, and can only be proposed; and about which mail
 */
export function useSaveChanges(
  change: () => OnItsWay,
  done: (made: SavedChanges) => unknown,
  beyond?: { is: () => boolean, ids?: () => number[], done: () => unknown },
  { send = api.change, ready = () => Promise.resolve() }: Saving = {},
) {
  const question = ref<Question | null>(null)
  const { error, fields, busy, submit, firstOf } = useForm()
  const directory = useDirectoryStore()
  const note = ref('')
  const proposing = computed(() => beyond?.is() === true)
  /** All mail is counted before it is saved; by which job, where that takes long. */
  const checking = shallowRef<{ job: JobView | null } | null>(null)
  const isAsking = computed(() => question.value !== null || checking.value !== null)
  let base = directory.data?.policy.version ?? 0
  let confirmed: ChangingForm['confirmed'] = {}

  /** @param own what the form itself sees is wrong, by field */
  async function put(own: Record<string, string> = {}) {
    await submit(async () => {
      if (proposing.value) return proposeIt()
      let slow: ReturnType<typeof setTimeout> | undefined
      try {
        await ready()
        slow = setTimeout(() => (checking.value = { job: null }), SLOW)
        const made = await send({ base, ...change(), confirmed }, job => (checking.value = { job }))
        question.value = null
        confirmed = {}
        await done(made)
      }
      catch (problem) {
        const asked = questionOf(problem)
        if (!asked) throw withOwnFields(problem)
        question.value = asked
      }
      finally {
        clearTimeout(slow)
        checking.value = null
      }
    }, own)
  }

  async function proposeIt() {
    const { changes, base: own = base } = change()
    try {
      const { eventId } = await api.propose({ base: own, changes, note: note.value.trim(), ids: beyond?.ids?.() ?? [] })
      note.value = ''
      useNoticeStore().say('Proposed. The answer appears under Proposals.', eventId, { to: '/proposals', text: 'Open proposal' })
      await beyond!.done()
    }
    catch (problem) {
      throw withOwnFields(problem)
    }
  }

  // What a form knows are the fields of its thing, not where that stands among the changes.
  function withOwnFields(problem: unknown): unknown {
    if (!(problem instanceof ApiProblem)) return problem
    const inside = /^changes\.\d+\.value\./
    const own = Object.entries(problem.fields).map(([path, text]) => [path.replace(inside, ''), text])
    return new ApiProblem(problem.status, problem.message, Object.fromEntries(own) as Record<string, string>, problem.kind)
  }

  function questionOf(problem: unknown): Question | null {
    if (!(problem instanceof ApiProblem)) return null
    const why = problem.message
    const impact = problem.kind.more.impact as ImpactView
    if (problem.is('broad')) return { kind: 'broad', why, impact }
    if (problem.is('erases')) return { kind: 'erases', why, impact }
    if (problem.is('stale')) return { kind: 'stale', why, theirs: (problem.kind.more.theirs ?? []) as Since[] }
    return null
  }

  /** Ends the counting: then nothing is saved. */
  async function cancel() {
    if (checking.value?.job) await api.stopJob(checking.value.job.id)
  }

  /** Once more, with what was seen or said. */
  async function goOn(said: NonNullable<ChangingForm['confirmed']>) {
    confirmed = { ...confirmed, ...said }
    await put()
  }

  /** What is written is about the policy as it is active now. @param least it was seen in that version, or a later one */
  function begin(least = 0) {
    leave()
    base = Math.max(least, directory.data?.policy.version ?? 0)
  }

  /** Once more, on what somebody else saved meanwhile. */
  async function putOver() {
    await directory.load()
    begin()
    await put()
  }

  function leave() {
    question.value = null
    confirmed = {}
    error.value = ''
  }

  /** Why it is proposed. */
  function say(text: string) {
    note.value = text
  }

  return { question, checking, isAsking, cancel, error, fields, busy, note, say, proposing, begin, put, putOver, goOn, leave, firstOf }
}
