import { api, type WhatIfView } from '~/api/client'

/** What would be of a copy if things stood otherwise. @param id which copy, as long as anybody looks; else null */
export function useWhatIf(id: () => number | null) {
  const found = shallowRef<{ id: number, result: WhatIfView } | null>(null)
  watch(id, async (asked) => {
    if (asked === null || found.value?.id === asked) return
    try {
      const result = await api.whatIf(asked)
      if (id() === asked) found.value = { id: asked, result }
    }
    catch (error) {
      // The reasons say what was; what would be otherwise is missing then.
      console.warn(error)
    }
  }, { immediate: true })

  const supposed = computed(() => (found.value?.id === id() ? found.value!.result : null))
  type Place = Pick<WhatIfView['now'], 'lane' | 'quarantine'>
  const differs = (a: Place, b: Place) => a.lane !== b.lane || a.quarantine !== b.quarantine
  /** Its location without a clause, by the clause's id; only where it differs. */
  const without = computed(() => {
    const { now, without = [] } = supposed.value ?? {}
    return Object.fromEntries(without.flatMap(w => (now && differs(w, now) ? [[w.clause.id, w]] : [])))
  })
  return { supposed, without }
}
