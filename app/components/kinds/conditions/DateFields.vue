<script setup lang="ts">
import type { DateTest } from '#core/kinds'

/** A day, or an age in days, of when a message was sent or received. */
const date = defineModel<DateTest>({ required: true })
const OF = [
  { value: 'sent', name: 'sent' },
  { value: 'received', name: 'received' },
] as const
const WAYS = [
  { value: 'olderThan', name: 'more than' },
  { value: 'newerThan', name: 'less than' },
  { value: 'before', name: 'before' },
  { value: 'after', name: 'since' },
] as const
type Way = (typeof WAYS)[number]['value']
// The sheet edits one bound; a test with several is shown as it stands.
const way = computed<Way>(() => WAYS.find(w => date.value[w.value] !== undefined)?.value ?? 'olderThan')
const byDay = (w: Way) => w === 'before' || w === 'after'

function turn(to: Way) {
  date.value = {
    of: date.value.of,
    [to]: byDay(to)
      ? (date.value[way.value === 'before' ? 'before' : 'after'] ?? new Date().toISOString())
      : (date.value.olderThan ?? date.value.newerThan ?? 30),
  }
}
</script>

<template>
  <ChoiceField
    :model-value="date.of"
    :options="OF"
    label="Date"
    :width="110"
    @update:model-value="of => date = { ...date, of }"
  />
  <ChoiceField
    :model-value="way"
    :options="WAYS"
    label="Before or after"
    :width="110"
    @update:model-value="turn"
  />
  <DayField
    v-if="byDay(way)"
    :model-value="date[way] as string"
    label="Day"
    :clearable="false"
    @update:model-value="(day: string) => date = { of: date.of, [way]: day }"
  />
  <template v-else>
    <TextField
      :model-value="String(date[way] ?? '')"
      label="Days"
      :width="70"
      @update:model-value="(v: string) => date = { of: date.of, [way]: Number(v) || 0 }"
    />
    <span>days ago</span>
    <span class="second small">age on arrival</span>
  </template>
</template>
