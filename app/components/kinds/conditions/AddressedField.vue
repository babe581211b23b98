<script setup lang="ts">
import { ADDRESSED, type Addressed } from '#core/kinds'

const value = defineModel<Addressed>({ required: true })
const NAMES: Record<Addressed, string> = {
  'to': 'recipient is in To',
  'cc': 'recipient is in Cc',
  'only me': 'recipient is the only one in To and Cc',
  'not by name': 'recipient is neither in To nor in Cc',
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
