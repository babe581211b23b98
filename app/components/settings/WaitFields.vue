<script setup lang="ts">
/** How long a quarantine holds a message, and what happens then. */
const days = defineModel<string>('days', { required: true })
const afterWait = defineModel<'bin' | 'release'>('afterWait', { required: true })
const { name } = defineProps<{ /** Of the quarantine. */ name: string }>()
const AFTER = [
  { value: 'bin' as const, name: 'move to Bin' },
  { value: 'release' as const, name: 'release' },
]
</script>

<template>
  <p class="row">
    After <TextField
      v-model="days"
      :label="`Longest wait in quarantine ${name}, in days`"
      placeholder="no limit"
      :width="80"
      code
    /> days without a decision: <ChoiceField
      v-model="afterWait"
      :options="AFTER"
      :label="`Then, in quarantine ${name}`"
      :width="130"
    />
    <slot />
  </p>
</template>

<style scoped>
.row { display: flex; flex-wrap: wrap; gap: 4px 8px; align-items: center; }
</style>
