import isSame from 'fast-deep-equal'
import { until, useDebounceFn } from '@vueuse/core'
import type { PolicyChange } from '#core/change'
import { isWhole } from '#core/simulate'
import { api, ApiProblem, type ImpactView } from '~/api/client'
import type { Which } from './whichMail'

/** So many lines of a list are looked through while they are written; more are added without. */
export const MAX_SIMULATED = 1000

/** Milliseconds without a key after which somebody is taken to pause. */
const PAUSE = 300

/**
 * What changes would do to the mail that is here, kept up to date while they are made: the newest mail answers first, the rest
 * streams in. What was asked before is not waited for.
 * @param changes null while there is nothing to ask
 * @param proposed they are beyond one's power: then it is told among one's own mail
 */
export function useImpact(changes: () => readonly PolicyChange[] | null, proposed: () => boolean = () => false) {
  const impact = shallowRef<ImpactView | null>(null)
  const state = ref<'idle' | 'looking' | 'ready' | 'failed'>('idle')
  /** Why it cannot be said: most often something that is not filled in yet. */
  const why = ref('')
  let asked: AbortController | null = null
  let last: readonly PolicyChange[] | null = null

  async function ask(now: readonly PolicyChange[]) {
    asked?.abort()
    const mine = (asked = new AbortController())
    state.value = 'looking'
    try {
      await api.impact(
        { changes: now, ...(proposed() ? { proposed: true } : {}) },
        (result) => {
          if (mine !== asked) return
          impact.value = result
          state.value = isWhole(result) ? 'ready' : 'looking'
        },
        mine.signal,
      )
      if (mine === asked) state.value = 'ready'
    }
    catch (error) {
      if (mine !== asked) return
      state.value = 'failed'
      impact.value = null
      why.value = error instanceof ApiProblem ? error.message : String(error)
    }
  }

  const askSoon = useDebounceFn(() => {
    if (last) void ask(last)
  }, PAUSE)

  watch(
    changes,
    (now) => {
      if (isSame(now, last)) return
      const first = last === null
      last = now
      if (!now) return stop()
      state.value = 'looking'
      if (first) void ask(now)
      else void askSoon()
    },
    { immediate: true },
  )

  function stop() {
    asked?.abort()
    asked = null
    impact.value = null
    state.value = 'idle'
  }

  /** What is known already, without asking. */
  function know(result: ImpactView, of: readonly PolicyChange[]) {
    last = of
    impact.value = result
    state.value = isWhole(result) ? 'ready' : 'looking'
    if (!isWhole(result)) void ask(of)
  }

  /**
   * Resolves when what was asked last is answered over all of the mail; at once where somebody chose what becomes of existing mail: else
   * that follows from the impact.
   */
  async function settledFor({ here }: Pick<Which, 'here'>): Promise<void> {
    if (here === null) await settled()
  }

  /** Resolves when what was asked last is answered over all of the mail. */
  async function settled(): Promise<void> {
    await until(state).not.toBe('looking')
  }

  onScopeDispose(() => asked?.abort())
  return { impact, state, why, know, settled, settledFor, own: computed(proposed) }
}
