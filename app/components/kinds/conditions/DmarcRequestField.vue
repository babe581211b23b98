<script setup lang="ts">
import type { DmarcRequest } from '#core/kinds'

const value = defineModel<DmarcRequest>({ required: true })
const OPTIONS: { value: DmarcRequest, name: string }[] = [
  { value: 'quarantine', name: 'to quarantine or refuse it' },
  { value: 'reject', name: 'to refuse it' },
]
</script>

<template>
  <ChoiceField
    v-model="value"
    :options="OPTIONS"
    label="What its domain asks"
    :width="220"
  />
</template>
