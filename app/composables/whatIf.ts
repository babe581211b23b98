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
      // The ladder says what was; what would be otherwise is missing then.
      console.warn(error)
    }
  }, { immediate: true })

  const supposed = computed(() => (found.value?.id === id() ? found.value!.result : null))
  /** Where it would end without a clause, by the clause's id. */
  const without = computed(() => Object.fromEntries((supposed.value?.without ?? []).map(w => [w.clause.id, w])))
  return { supposed, without }
}
