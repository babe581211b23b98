<script setup lang="ts">
import type { Verdict } from '#core/message'

const value = defineModel<Verdict>({ required: true })
const OPTIONS: { value: Verdict, name: string }[] = [
  { value: 'pass', name: 'the sender is verified' },
  { value: 'fail', name: 'authentication fails' },
  { value: 'none', name: 'nothing authenticates the sender' },
  { value: 'temperror', name: 'the sender could not be verified' },
]
</script>

<template>
  <ChoiceField
    v-model="value"
    :options="OPTIONS"
    label="Authentication"
    :width="220"
  />
</template>
