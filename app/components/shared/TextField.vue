<script setup lang="ts">
/** A short text or number on a line. */
const text = defineModel<string>({ required: true })
const {
  label,
  width = 200,
  placeholder = '',
  code = false,
} = defineProps<{
  /** For those who do not see it. */ label: string
  width?: number
  placeholder?: string
  /** Not prose: no spelling is checked. */ code?: boolean
}>()
</script>

<template>
  <el-input
    v-model="text"
    :class="{ mono: code }"
    :placeholder
    :aria-label="label"
    :style="{ width: `${width}px` }"
    :spellcheck="code ? 'false' : undefined"
  />
</template>
