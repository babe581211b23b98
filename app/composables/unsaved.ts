import { useEventListener } from '@vueuse/core'

const open = new Set<() => boolean>()
/** Where somebody wants to go, while they are asked whether what is not saved may be lost. */
const asked = ref<string | null>(null)
let allowed = false

/**
 * Work that is not saved: going to another page asks once.
 * @param unsaved whether there is some now
 * @returns to be called as soon as it is saved, before one goes elsewhere
 */
export function useUnsaved(unsaved: () => boolean): () => void {
  onMounted(() => open.add(unsaved))
  onBeforeUnmount(() => open.delete(unsaved))
  // The browser asks in its own words when the tab is closed.
  useEventListener(window, 'beforeunload', (event) => {
    if (open.has(unsaved) && unsaved()) event.preventDefault()
  })
  return () => void open.delete(unsaved)
}

/** True where somebody may go there; else they are asked. */
export function canLeave(to: string): boolean {
  if (allowed || ![...open].some(unsaved => unsaved())) {
    allowed = false
    asked.value = null
    return true
  }
  asked.value = to
  return false
}

/** The question, and its answers. */
export function useLeaving() {
  async function leave() {
    const to = asked.value
    asked.value = null
    if (to === null) return
    allowed = true
    await navigateTo(to)
  }
  const stay = () => (asked.value = null)
  return { asked: readonly(asked), leave, stay }
}
