<script setup lang="ts" generic="T extends string | boolean">
/** A choice among a few, as a select on a line. */
const chosen = defineModel<T>({ required: true })
const {
  options,
  label,
  width = 178,
} = defineProps<{
  options: readonly { value: T, name: string }[]
  /** For those who do not see it. */ label: string
  width?: number
}>()
</script>

<template>
  <el-select
    :model-value="chosen"
    class="line-field"
    :aria-label="label"
    :style="{ width: `${width}px` }"
    @change="(v: T) => chosen = v"
  >
    <el-option
      v-for="o in options"
      :key="String(o.value)"
      :value="o.value"
      :label="o.name"
    />
  </el-select>
</template>
