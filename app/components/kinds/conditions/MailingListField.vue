<script setup lang="ts">
const value = defineModel<true | string>({ required: true })
</script>

<template>
  <TextField
    :model-value="value === true ? '' : value"
    label="Mailing list"
    placeholder="any, or a List-Id"
    :width="240"
    code
    @update:model-value="(v: string) => value = v.trim() || true"
  />
  <SenderPicker
    :kinds="['mailingList']"
    one
    @add="([list]) => value = list?.value ?? true"
  />
</template>
