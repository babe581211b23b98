import { useEventListener, useLocalStorage } from '@vueuse/core'

const defaults = { letters: true }

/** Whether single letters and figures work as keys (WCAG 2.1.4); kept in this browser. */
export function useKeySettings() {
  return useLocalStorage('sober-gate keys', { ...defaults })
}

/**
 * Keys while this component is there. Names as in KeyboardEvent.key, with "ctrl+" or "shift+" before them; not while somebody
 * types into a field, nor while a dialog is open.
 * @param active whether they are for this just now; else they are left to others
 */
export function useKeys(keys: Record<string, (event: KeyboardEvent) => void>, active: () => boolean = () => true): void {
  const settings = useKeySettings()
  useEventListener(document, 'keydown', (event) => {
    if (event.defaultPrevented || event.altKey || event.isComposing || !active()) return
    const target = event.target as HTMLElement | null
    if (target?.closest('input, textarea, select, [contenteditable], .el-dialog, [role=menu]')) return
    const held = event.ctrlKey || event.metaKey
    const shift = event.shiftKey && event.key.length > 1 ? 'shift+' : ''
    const name = `${held ? 'ctrl+' : ''}${shift}${event.key.length === 1 ? event.key.toLowerCase() : event.key}`
    const action = keys[name]
    if (!action || (!held && event.key.length === 1 && event.key !== ' ' && event.key !== '?' && !settings.value.letters)) return
    // A pressed button or link keeps its own Enter and Space.
    if ((event.key === 'Enter' || event.key === ' ') && target?.closest('button, a, summary')) return
    event.preventDefault()
    action(event)
  })
}
