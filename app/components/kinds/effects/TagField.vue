<script setup lang="ts">
const text = defineModel<string>({ required: true })
</script>

<template>
  <label>tag <el-input
    v-model="text"
    class="line-field"
    placeholder="one, or several with commas"
    style="width: 190px"
  /></label>
</template>
