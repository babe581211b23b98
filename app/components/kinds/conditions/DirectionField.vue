<script setup lang="ts">
import type { Direction } from '#core/message'

const value = defineModel<Direction>({ required: true })
const OPTIONS: { value: Direction, name: string }[] = [
  { value: 'inbound', name: 'comes in' },
  { value: 'outbound', name: 'goes out' },
  { value: 'internal', name: 'stays among us' },
]
</script>

<template>
  <ChoiceField
    v-model="value"
    :options="OPTIONS"
    label="Which way it goes"
  />
</template>
