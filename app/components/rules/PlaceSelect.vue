<script setup lang="ts">
import type { PhrasePlace } from '#core/policy'

/** Where a look looks; left out, where it does by default. */
const where = defineModel<PhrasePlace[] | undefined>({ required: true })
const { exempts } = defineProps<{ exempts: boolean }>()

const USUAL: { value: PhrasePlace[], name: string }[] = [
  { value: ['subject'], name: 'in the subject' },
  { value: ['own'], name: 'in the text' },
  { value: ['subject', 'own'], name: 'in all text but quoted text' },
  { value: ['quoted'], name: 'in quoted text' },
  { value: ['sender name'], name: 'in the sender’s display name' },
  { value: ['link'], name: 'in links' },
  { value: ['attachment name'], name: 'in attachment names' },
  { value: ['attachment text'], name: 'in text of attachments' },
  { value: ['header'], name: 'in any header' },
]
const TEXT_PLACES: { value: PhrasePlace, name: string }[] = [
  { value: 'subject', name: 'subject' },
  { value: 'own', name: 'text' },
  { value: 'quoted', name: 'quoted text' },
  { value: 'hidden', name: 'hidden text' },
  { value: 'sender name', name: 'sender’s display name' },
  { value: 'link', name: 'links' },
  { value: 'attachment name', name: 'attachment names' },
  { value: 'attachment text', name: 'text of attachments' },
  { value: 'header', name: 'any header' },
]
const [DEFAULT, SEVERAL, HEADER] = ['default', 'several', 'header:']
const keyOf = (places: readonly PhrasePlace[] | undefined) =>
  places === undefined
    ? DEFAULT
    : places.length === 1 && places[0]!.startsWith(HEADER)
      ? HEADER
      : (USUAL.find(u => u.value.join() === places.join())?.value.join() ?? SEVERAL)
const options = computed(() => [
  { value: DEFAULT, name: exempts ? 'subject, unquoted text' : 'subject and all text' },
  ...USUAL.map(u => ({ value: u.value.join(), name: u.name })),
  { value: HEADER, name: 'in a header…' },
  { value: SEVERAL, name: 'in several parts…' },
])
// Several that happen to be a usual choice stay several while they are being chosen.
const several = ref(keyOf(where.value) === SEVERAL)
const key = computed(() => (several.value ? SEVERAL : keyOf(where.value)))

function choose(chosen: string) {
  several.value = chosen === SEVERAL
  if (chosen === SEVERAL) where.value ??= exempts ? ['subject', 'own'] : ['subject', 'own', 'quoted', 'hidden']
  else
    where.value =
      chosen === DEFAULT
        ? undefined
        : chosen === HEADER
          ? [`${HEADER}x-mailer` as PhrasePlace]
          : (chosen.split(',') as PhrasePlace[])
}
</script>

<template>
  <ChoiceField
    :model-value="key"
    :options
    label="Where"
    :width="184"
    @update:model-value="choose"
  />
  <TextField
    v-if="key === HEADER"
    :model-value="where![0]!.slice(HEADER.length)"
    label="Name of the header"
    :width="140"
    code
    @update:model-value="(name: string) => where = [`${HEADER}${name.trim().toLowerCase()}` as PhrasePlace]"
  />
  <el-select
    v-if="several"
    :model-value="where ?? []"
    class="line-field"
    multiple
    aria-label="Places"
    style="width: 300px"
    @change="(v: PhrasePlace[]) => where = v.length ? v : undefined"
  >
    <el-option
      v-for="p in TEXT_PLACES"
      :key="p.value"
      :value="p.value"
      :label="p.name"
    />
  </el-select>
</template>
