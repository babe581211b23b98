<script setup lang="ts">
/** A word that explains itself where it stands: under a dotted line, on focus or hover. */
defineOptions({ inheritAttrs: false })
const { word, help } = defineProps<{ word: string, help: string }>()
</script>

<template>
  <el-tooltip
    :content="help"
    placement="bottom-start"
    effect="light"
    :show-after="150"
    :hide-after="0"
    popper-class="word-help"
    :trigger-keys="[]"
    :trigger="['hover', 'focus']"
  >
    <span
      class="word"
      :class="$attrs.class"
      tabindex="0"
      :aria-description="help"
    >{{ word }}</span>
  </el-tooltip>
</template>

<style>
.word { border-bottom: 1px dotted var(--ink-2); cursor: help; }
.word-help { max-width: 340px; font-size: 13.5px; line-height: 1.4; }
</style>
