<script setup lang="ts">
import type { Bounds } from '#core/kinds'

const value = defineModel<Bounds>({ required: true })
const MB = 1_000_000
</script>

<template>
  <BoundsFields
    v-model="value"
    unit="MB"
    :of="MB"
    label="Megabytes"
  />
</template>
