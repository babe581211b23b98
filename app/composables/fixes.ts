import { isKeptAway } from '#core/policy'
import { isWhole } from '#core/simulate'
import { api, type CopyView, type FixView } from '~/api/client'

/** Somebody said of it that it should not lie where it lies. */
export function wentWrong({ lane, judgement, judgementStrength }: CopyView): boolean {
  if (judgementStrength !== 'said') return false
  return judgement === 'wanted' ? isKeptAway(lane) : judgement === 'unwanted' && (lane === 'inbox' || lane === 'lowPriority')
}

/** The fixes for copies that went wrong: what was found so far is there at once; their order once all mail was looked at. */
export function useFixes() {
  const found = shallowRef<FixView[] | null>(null)
  const reading = ref(false)
  const failure = ref('')
  /** The copies that they are about. */
  const about = ref('')
  let going: AbortController | null = null

  async function look(ids: readonly number[]) {
    if (about.value === ids.join() && (found.value || reading.value)) return
    leave()
    const mine = (going = new AbortController())
    about.value = ids.join()
    reading.value = true
    try {
      await api.fixes([...ids], fixes => (going === mine ? (found.value = fixes) : undefined), mine.signal)
      if (going === mine && !found.value?.every(f => isWhole(f.impact))) throw new Error('The connection ended too early. Try again.')
    }
    catch (error) {
      if (going === mine) failure.value = error instanceof Error ? error.message : String(error)
    }
    finally {
      if (going === mine) reading.value = false
    }
  }

  function leave() {
    going?.abort()
    going = null
    found.value = null
    reading.value = false
    failure.value = ''
    about.value = ''
  }

  onUnmounted(leave)
  return { found, reading, failure, about, look, leave }
}
