import isSame from 'fast-deep-equal'
import { useDebounceFn } from '@vueuse/core'
import { api, ApiProblem, type RuleForm, type TakenApart } from '~/api/client'

/** Milliseconds without a key after which the parts are counted: later than the whole, which is looked at first. */
const PAUSE = 700

/**
 * What each condition, phrase and exception of a rule does to the mail that is here, kept up to date while it is made.
 * @param rule null while something is missing in it
 */
export function useRuleParts(rule: () => (RuleForm & { id: string }) | null) {
  const found = shallowRef<TakenApart | null>(null)
  let going: AbortController | null = null
  let last: object | null = null

  const ask = useDebounceFn(async () => {
    const now = rule()
    going?.abort()
    const mine = (going = new AbortController())
    if (!now) return (found.value = null)
    const { id, ...form } = now
    const value = { ...form, name: form.name || 'rule', ...(id === 'new' ? {} : { id }) }
    try {
      await api.parts({ type: 'put', kind: 'rule', value }, parts => mine === going && (found.value = parts), mine.signal)
    }
    catch (error) {
      if (mine !== going) return
      // The whole says what is wrong with it; what its parts do is only missing then.
      found.value = null
      if (!(error instanceof ApiProblem)) console.warn(error)
    }
  }, PAUSE)

  watch(
    // Its name, its state and what is done say nothing of what it catches.
    () => {
      const now = rule()
      return now && { when: now.when, except: now.except, owner: now.owner, direction: now.direction }
    },
    (now) => {
      if (isSame(now, last)) return
      last = now
      void ask()
    },
    { immediate: true },
  )
  onScopeDispose(() => going?.abort())
  return found
}
