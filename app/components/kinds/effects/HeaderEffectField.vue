<script setup lang="ts">
const text = defineModel<string>({ required: true })
</script>

<template>
  <TextField
    v-model="text"
    label="Header to add"
    placeholder="X-Filtered: yes"
    :width="260"
    code
  />
</template>
