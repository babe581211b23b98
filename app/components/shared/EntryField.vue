<script setup lang="ts">
import { ADDRESS_KINDS, ENTRY_KINDS, entryKindOf, type EntryKind } from '#core/kinds'

/** One entry: how wide it is taken, and its value. */
const entry = defineModel<{ kind: EntryKind, value: string }>({ required: true })
const { label, sender } = defineProps<{ label: string, /** Also kinds that only a sender has. */ sender: boolean }>()

const kinds = computed(() => (sender ? ENTRY_KINDS : ADDRESS_KINDS)
  .filter(kind => kind !== 'everyone')
  .map(kind => ({ value: kind, name: entryKindOf(kind).label })))
</script>

<template>
  <ChoiceField
    :model-value="entry.kind"
    :options="kinds"
    label="Type of entry"
    :width="166"
    @update:model-value="(kind: EntryKind) => entry = { ...entry, kind }"
  />
  <el-input
    :model-value="entry.value"
    :placeholder="entryKindOf(entry.kind).example"
    :aria-label="label"
    style="width: 220px"
    spellcheck="false"
    @update:model-value="(value: string) => entry = { ...entry, value }"
  />
</template>
