import { api, type AuditEventFilter, type AuditEventView } from '~/api/client'

/** Events of the audit log, page by page. @param asked which; asked for anew whenever it changes */
export function useAuditEvents(asked: () => AuditEventFilter) {
  const notices = useNoticeStore()
  const events = ref<AuditEventView[]>([])
  const next = ref<number | null>(null)
  let current = 0
  const { failure, data, load } = useReading(async () => {
    const mine = ++current
    const page = await api.auditEvents(asked())
    if (mine === current) {
      events.value = page.items
      next.value = page.next
    }
    return page
  })
  watch(asked, load)
  afterUndo(load)

  async function more() {
    const mine = current
    try {
      const page = await api.auditEvents({ ...asked(), cursor: next.value! })
      // What was asked for meanwhile is something else.
      if (mine !== current) return
      events.value = [...events.value, ...page.items]
      next.value = page.next
    }
    catch (error) {
      notices.failed(error)
    }
  }
  return { events, next, failure, ready: computed(() => data.value !== null), load, more }
}
