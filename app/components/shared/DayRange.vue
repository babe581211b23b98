<script setup lang="ts">
/** From one day to another, both included; either may be left open. */
const since = defineModel<string>('since', { required: true })
const until = defineModel<string>('until', { required: true })
const { beginning = 'the beginning' } = defineProps<{ /** What an open beginning means. */ beginning?: string }>()
</script>

<template>
  <span>Since</span>
  <DayOnLine
    v-model="since"
    label="Since"
    :placeholder="beginning"
  />
  <span>Until</span>
  <DayOnLine
    v-model="until"
    label="Until"
    placeholder="now"
  />
</template>
