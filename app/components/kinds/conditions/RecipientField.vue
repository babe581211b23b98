<script setup lang="ts">
import type { EntryText } from '#core/kinds'

const value = defineModel<EntryText>({ required: true })
</script>

<template>
  <EntryField
    v-model="value"
    label="Recipient"
    :sender="false"
  />
</template>
