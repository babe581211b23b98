<script setup lang="ts">
/** A day on a line, as YYYY-MM-DD; empty for none. */
const day = defineModel<string>({ required: true })
const { label, placeholder, width = 138 } = defineProps<{
  /** For those who do not see it. */
  label: string
  placeholder: string
  width?: number
}>()
</script>

<template>
  <el-date-picker
    class="line-field"
    :style="{ width: `${width}px` }"
    :model-value="day"
    type="date"
    value-format="YYYY-MM-DD"
    format="D MMM YYYY"
    :placeholder
    :aria-label="label"
    @update:model-value="(v: string | null) => day = v ?? ''"
  />
</template>
