<script setup lang="ts">
import type { MethodTest } from '#core/kinds'
import { METHOD_RESULTS } from '#core/message'

const value = defineModel<MethodTest>({ required: true })
const METHODS = [
  { value: 'spf', name: 'SPF' },
  { value: 'dkim', name: 'DKIM' },
  { value: 'dmarc', name: 'DMARC' },
] as const
const RESULTS = METHOD_RESULTS.map(result => ({ value: result, name: result }))
const method = computed({ get: () => value.value.method, set: method => (value.value = { ...value.value, method }) })
const result = computed({ get: () => value.value.result, set: result => (value.value = { ...value.value, result }) })
</script>

<template>
  <ChoiceField
    v-model="method"
    :options="METHODS"
    label="Method"
    :width="110"
  />
  <span class="second small">is</span>
  <ChoiceField
    v-model="result"
    :options="RESULTS"
    label="Result"
    :width="130"
  />
</template>
