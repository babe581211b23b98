<script setup lang="ts">
/** A day, kept as the instant at which it begins here; empty for none. */
const instant = defineModel<string>({ required: true })
const {
  label,
  placeholder = 'never',
  width = 150,
  clearable = true,
} = defineProps<{ label: string, placeholder?: string, width?: number, clearable?: boolean }>()
const day = computed(() => (instant.value ? new Date(instant.value) : null))
</script>

<template>
  <el-date-picker
    :model-value="day"
    type="date"
    :aria-label="label"
    :placeholder
    :clearable
    :style="{ width: `${width}px` }"
    @update:model-value="(d: Date | null) => instant = d?.toISOString() ?? ''"
  />
</template>
