<script setup lang="ts">
import type { PhrasePlace } from '#core/policy'

/** Where a look looks; left out, where it does by default. */
const where = defineModel<PhrasePlace[] | undefined>({ required: true })
const { spares } = defineProps<{ spares: boolean }>()

const USUAL: { value: PhrasePlace[], name: string }[] = [
  { value: ['subject'], name: 'in the subject' }, { value: ['own'], name: 'in the writer’s own text' }, { value: ['subject', 'own'], name: 'not in quoted text' }, { value: ['quoted'], name: 'in quoted text' },
  { value: ['sender name'], name: 'in the sender’s name' }, { value: ['link'], name: 'in its links' }, { value: ['attachment name'], name: 'in attachment names' }, { value: ['attachment text'], name: 'in attachments' }, { value: ['header'], name: 'in any header' },
]
const DEFAULT = 'default'
const keyOf = (places: readonly PhrasePlace[] | undefined) => places === undefined ? DEFAULT : places.join(' + ')
const options = computed(() => {
  const usual = [{ key: DEFAULT, name: spares ? 'in subject or own text' : 'anywhere in it' }, ...USUAL.map(u => ({ key: keyOf(u.value), name: u.name }))]
  const now = keyOf(where.value)
  return usual.some(o => o.key === now) ? usual : [...usual, { key: now, name: `in ${now}` }]
})
const choose = (key: string) => where.value = key === DEFAULT ? undefined : key.split(' + ') as PhrasePlace[]
</script>

<template>
  <el-select
    :model-value="keyOf(where)"
    class="line-field"
    aria-label="Where"
    style="width: 178px"
    @change="choose"
  >
    <el-option
      v-for="o in options"
      :key="o.key"
      :value="o.key"
      :label="o.name"
    />
  </el-select>
</template>
