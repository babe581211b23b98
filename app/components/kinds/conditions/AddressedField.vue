<script setup lang="ts">
import { ADDRESSED, type Addressed } from '#core/kinds'

const value = defineModel<Addressed>({ required: true })
const NAMES: Record<Addressed, string> = {
  'to': 'to the reader',
  'cc': 'to the reader as a copy',
  'only me': 'to the reader alone',
  'not by name': 'without naming the reader',
}
const OPTIONS = ADDRESSED.map(a => ({ value: a, name: NAMES[a] }))
</script>

<template>
  <ChoiceField
    v-model="value"
    :options="OPTIONS"
    label="Addressed"
    :width="240"
  />
</template>
