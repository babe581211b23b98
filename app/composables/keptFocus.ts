import { useEventListener, useMutationObserver } from '@vueuse/core'

const FOCUSABLE = 'input, textarea, button, summary, a[href], [tabindex]'
/** What opens something over the page as soon as it has the focus. */
const OPENS = '.el-date-editor *, .el-select *'

/**
 * Keeps the focus on the page. Where what had it is gone (a button that opened a field, a row that was deleted) it goes to what is
 * nearest; where that was switched off for a moment, back to it. A grid looks after its rows by itself: there the focus says what is
 * meant.
 */
export function useKeptFocus(): void {
  /** What had the focus last, and what is around it, from the inside out. */
  let path: HTMLElement[] = []
  useEventListener(document, 'focusin', ({ target }) => {
    path = []
    for (let at = target as HTMLElement | null; at; at = at.parentElement) path.push(at)
  })
  // Who presses beside everything means to leave the field.
  useEventListener(document, 'pointerdown', ({ target }) => {
    if (!(target as HTMLElement).closest(FOCUSABLE)) path = []
  })
  const find = () => {
    const [was] = path
    if (!was || document.activeElement !== document.body || path.some(el => el.getAttribute('role') === 'grid')) return
    if (was.isConnected) {
      if (isShown(was)) was.focus({ preventScroll: true })
      return
    }
    const around = path.find(el => el.isConnected)
    // Another page is shown, or all of this one anew: it decides by itself where one begins.
    if (!around?.matches('main > * *')) return
    const near = [...around.querySelectorAll<HTMLElement>(FOCUSABLE)].find(el => isShown(el) && !el.matches(OPENS))
    near?.focus({ preventScroll: true })
  }
  let waits = false
  useMutationObserver(document.body, () => {
    if (waits || document.activeElement !== document.body || !path.length) return
    waits = true
    // After what puts the focus somewhere by itself.
    setTimeout(() => {
      waits = false
      find()
    }, 50)
  }, { childList: true, subtree: true, attributes: true, attributeFilter: ['disabled'] })
}

function isShown(el: HTMLElement): boolean {
  return el.getClientRects().length > 0 && !(el as HTMLButtonElement).disabled && el.tabIndex >= 0
}
