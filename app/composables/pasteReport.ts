import { useDebounceFn } from '@vueuse/core'
import { api, type PasteView } from '~/api/client'
import type { EntryKind } from '#core/kinds'

const PAUSE = 400
/** Letters of a paste that is looked through while it stands in the field; a longer one is told of when it is added. */
const MAX_LOOKED = 400_000

/** A list that is being made. */
interface NewList {
  owner: string
  side: 'allow' | 'block'
}

/** What would become of each line of a paste, kept up to date while it stands in the field. */
export function usePasteReport(list: () => string | NewList, paste: () => { text: string, below: boolean, as?: EntryKind }) {
  const report = shallowRef<PasteView | null>(null)
  let asked = 0

  const ask = useDebounceFn(async () => {
    const mine = ++asked
    const what = paste()
    if (!what.text.trim() || what.text.length > MAX_LOOKED) return (report.value = null)
    try {
      const to = list()
      const { text, below } = what
      const result = typeof to === 'string' ? await api.reportPaste(to, what) : await api.reportNewPaste({ ...to, text, below })
      if (mine === asked) report.value = result
    }
    catch (error) {
      // Adding it says what is wrong with it; only this look ahead is missing.
      if (mine === asked) report.value = null
      console.warn(error)
    }
  }, PAUSE)
  watch([paste, list], () => void ask(), { deep: true })
  return report
}
