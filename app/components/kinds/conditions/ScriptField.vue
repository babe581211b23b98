<script setup lang="ts">
import { SCRIPTS, type Script } from '#core/kinds'

const value = defineModel<Script>({ required: true })
const OPTIONS = SCRIPTS.map(s => ({ value: s, name: `mostly ${s} letters` }))
</script>

<template>
  <ChoiceField
    v-model="value"
    :options="OPTIONS"
    label="Letters"
    :width="220"
  />
</template>
