<script setup lang="ts">
const text = defineModel<string>({ required: true })
</script>

<template>
  <el-checkbox
    :model-value="text !== ''"
    @update:model-value="v => text = v ? 'yes' : ''"
  >
    flag as important
  </el-checkbox>
</template>
