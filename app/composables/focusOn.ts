/** Gives the focus to the first field within an element as soon as that is shown. */
export function useFocusOn(element: Readonly<Ref<HTMLElement | null>>, isShown: () => unknown) {
  watch(isShown, async (is) => {
    if (!is) return
    await nextTick()
    element.value?.querySelector<HTMLElement>('input, textarea')?.focus()
  })
}
