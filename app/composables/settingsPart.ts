import isSame from 'fast-deep-equal'
import { ApiProblem, type SettingsForm, type SettingsView, type Settings } from '~/api/client'

/**
 * One part of the house while it is edited.
 * @param read what the fields hold, of the house as it is
 * @param write the parts of the house that the fields come to
 */
export function useSettingsPart<Fields extends object>(
  read: (settings: SettingsView) => Fields,
  write: (fields: Fields) => Partial<Settings>,
  words: string,
  /** What of the fields cannot even be sent, by field. */
  lacks: (fields: Fields) => Record<string, string> = () => ({}),
) {
  const settings = useSettingsStore()
  const { error, fields: wrong, busy, submit, firstOf } = useForm()
  const asIs = () => structuredClone(toRaw(read(toRaw(settings.data!))))
  const fields = ref(asIs()) as Ref<Fields>
  const before = ref(asIs()) as Ref<Fields>
  /** Messages that it deletes: their number is typed before it is saved. */
  const deletes = ref<{ why: string, count: number } | null>(null)
  const changed = computed(() => !isSame(fields.value, before.value))

  function leave() {
    fields.value = asIs()
    before.value = asIs()
    deletes.value = null
    error.value = ''
    wrong.value = {}
  }
  /** @param confirmed what of it was seen */
  const save = (confirmed?: SettingsForm['confirmed']) =>
    submit(async () => {
      try {
        await settings.save({ ...write(fields.value), ...(confirmed ? { confirmed } : {}) }, words)
        leave()
      }
      catch (problem) {
        if (!(problem instanceof ApiProblem) || !problem.is('erases')) throw problem
        deletes.value = { why: problem.message, count: problem.kind.more.erases as number }
      }
    }, lacks(fields.value))
  // What somebody is typing is not taken from them.
  watch(() => settings.data?.version, () => !changed.value && leave())
  useUnsaved(() => changed.value)

  watch(fields, () => (deletes.value = null), { deep: true })

  return { settings, fields, changed, deletes, error, wrong, busy, firstOf, save, leave }
}

/** What is written one a line. */
export function linesOf(text: string): string[] {
  return text.split(/[\n,;]+/).map(line => line.trim()).filter(Boolean)
}
