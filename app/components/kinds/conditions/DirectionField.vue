<script setup lang="ts">
import type { Direction } from '#core/message'

const value = defineModel<Direction>({ required: true })
const OPTIONS: { value: Direction, name: string }[] = [
  { value: 'inbound', name: 'inbound' },
  { value: 'outbound', name: 'outbound' },
  { value: 'internal', name: 'internal' },
]
</script>

<template>
  <ChoiceField
    v-model="value"
    :options="OPTIONS"
    label="Direction"
  />
</template>
