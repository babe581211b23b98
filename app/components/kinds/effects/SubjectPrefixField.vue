<script setup lang="ts">
const text = defineModel<string>({ required: true })
</script>

<template>
  <label>subject prefix <el-input
    v-model="text"
    class="line-field"
    style="width: 120px"
  /></label>
</template>
