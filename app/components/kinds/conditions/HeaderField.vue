<script setup lang="ts">
const value = defineModel<string>({ required: true })
</script>

<template>
  <TextField
    :model-value="value"
    label="Header"
    placeholder="x-mailer"
    code
    @update:model-value="(v: string) => value = v.trim()"
  />
</template>
