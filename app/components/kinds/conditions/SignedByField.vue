<script setup lang="ts">
const value = defineModel<string>({ required: true })
</script>

<template>
  <TextField
    v-model="value"
    label="Domain that signs"
    placeholder="quayline.example"
    :width="220"
    code
  />
</template>
