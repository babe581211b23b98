<script setup lang="ts">
import type { Bounds } from '#core/kinds'

const value = defineModel<Bounds>({ required: true })
</script>

<template>
  <BoundsFields
    v-model="value"
    unit=""
    label="Number of attachments"
  />
</template>
