<script setup lang="ts">
import { entryWords, readLines, type EntryKind } from '#core/kinds'
import type { ConditionRow } from '~/composables/conditionRows'

/** Senders, of which one is enough: each line is taken for what it looks like, as on a list. */
const row = defineModel<ConditionRow>({ required: true })
const patch = (change: Partial<ConditionRow>) => (row.value = { ...row.value, ...change })
const TAKEN_FOR: { value: EntryKind | '', name: string }[] = [
  { value: '', name: 'detect automatically' },
  { value: 'words', name: 'whole words in name or address' },
  { value: 'contains', name: 'part of name or address (contains)' },
  { value: 'mailingList', name: 'mailing list (List-Id)' },
]
const read = computed(() => readLines({ text: row.value.text, below: row.value.below, as: row.value.as || undefined }))
/** What it is taken for is said otherwise than by its looks. */
const unfolded = ref(row.value.as !== '')
const byDomain = computed(() => read.value.good.some(e => e.kind === 'domain' || e.kind === 'domainAndSubdomains') && !row.value.as)
const taken = computed(() => {
  const { good } = read.value
  return good.slice(0, 3).map(entryWords).join(', ') + (good.length > 3 ? ` and ${good.length - 3} more` : '')
})
</script>

<template>
  <el-input
    :model-value="row.text"
    type="textarea"
    :autosize="{ minRows: 1, maxRows: 8 }"
    placeholder="name@quayline.example or @quayline.example"
    aria-label="Sender"
    spellcheck="false"
    style="width: 238px"
    @update:model-value="(text: string) => patch({ text })"
  />
  <ChoiceField
    v-if="unfolded"
    :model-value="row.as"
    :options="TAKEN_FOR"
    label="Type"
    :width="172"
    @update:model-value="(as: EntryKind | '') => patch({ as })"
  />
  <PressButton
    v-else
    plain
    small
    @click="unfolded = true"
  >
    + More options
  </PressButton>
  <el-checkbox
    v-if="byDomain"
    :model-value="row.below"
    @update:model-value="below => patch({ below: below === true })"
  >
    include subdomains
  </el-checkbox>
  <SenderPicker @add="(_, lines) => patch({ text: appendedLines(row.text, lines) })" />
  <p
    v-if="taken && taken !== row.text.trim()"
    class="second small taken"
  >
    {{ taken }}
  </p>
</template>

<style scoped>
.taken { flex-basis: 100%; overflow-wrap: anywhere; }
</style>
