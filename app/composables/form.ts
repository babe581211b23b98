import { ApiProblem } from '~/api/client'

/** A form on its way to the server: what went wrong, field by field, and whether it is under way. */
export function useForm() {
  const error = ref('')
  /** Someone else changed it meanwhile: it has to be loaded again. */
  const stale = ref(false)
  const fields = ref<Record<string, string>>({})
  const busy = ref(false)

  /** Does what is sent; a second press while it is under way does nothing. */
  async function submit(send: () => Promise<void>, own: Record<string, string> = {}) {
    if (busy.value) return
    error.value = ''
    stale.value = false
    fields.value = own
    if (Object.keys(own).length) return
    busy.value = true
    try {
      await send()
    }
    catch (e) {
      error.value = e instanceof ApiProblem ? e.message : String(e)
      stale.value = e instanceof ApiProblem && e.is('stale')
      fields.value = e instanceof ApiProblem ? e.fields : {}
    }
    finally {
      busy.value = false
    }
  }

  /** What is wrong at a field or below it. */
  const firstOf = (prefix: string) => Object.entries(fields.value).find(([k]) => k === prefix || k.startsWith(`${prefix}.`))?.[1]

  return { error, stale, fields, busy, submit, firstOf }
}

/** Something that is read from the server when the page opens, with what went wrong. */
export function useReading<T>(read: () => Promise<T>) {
  const data = shallowRef<T | null>(null)
  const failure = ref('')

  async function load() {
    try {
      data.value = await read()
      failure.value = ''
    }
    catch (e) {
      failure.value = e instanceof Error ? e.message : String(e)
    }
  }
  onMounted(load)
  return { data, failure, load }
}
