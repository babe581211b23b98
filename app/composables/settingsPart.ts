import isSame from 'fast-deep-equal'
import type { House, HouseSettings } from '~/api/client'

/**
 * One part of the house while it is edited.
 * @param read what the fields hold, of the house as it is
 * @param write the parts of the house that the fields come to
 */
export function useHousePart<Fields extends object>(
  read: (house: House) => Fields,
  write: (fields: Fields) => Partial<HouseSettings>,
  words: string,
  /** What of the fields cannot even be sent, by field. */
  lacks: (fields: Fields) => Record<string, string> = () => ({}),
) {
  const house = useHouseStore()
  const { error, fields: wrong, busy, submit, firstOf } = useForm()
  const asIs = () => structuredClone(toRaw(read(toRaw(house.data!))))
  const fields = ref(asIs()) as Ref<Fields>
  const before = ref(asIs()) as Ref<Fields>
  const changed = computed(() => !isSame(fields.value, before.value))

  function leave() {
    fields.value = asIs()
    before.value = asIs()
    error.value = ''
    wrong.value = {}
  }
  const save = () =>
    submit(async () => {
      await house.save(write(fields.value), words)
      leave()
    }, lacks(fields.value))
  // What somebody is typing is not taken from them.
  watch(() => house.data?.version, () => !changed.value && leave())
  useUnsaved(() => changed.value)

  return { house, fields, changed, error, wrong, busy, firstOf, save, leave }
}

/** What is written one a line. */
export function linesOf(text: string): string[] {
  return text.split(/[\n,;]+/).map(line => line.trim()).filter(Boolean)
}
