<script setup lang="ts">
/** A word that is explained beside it, on focus or hover; a term of the glossary leads to it in the help, in another tab. */
defineOptions({ inheritAttrs: false })
const { word, term, help = '' } = defineProps<{ word: string, term?: GlossaryTerm, help?: string }>()
const text = computed(() => (term ? GLOSSARY[term].text : help))
</script>

<template>
  <el-tooltip
    :content="text"
    placement="bottom-start"
    effect="light"
    :show-after="150"
    :hide-after="0"
    popper-class="word-help"
    :trigger-keys="[]"
    :trigger="['hover', 'focus']"
  >
    <NuxtLink
      v-if="term"
      class="word"
      :class="$attrs.class"
      :to="`/help#${glossaryId(term)}`"
      target="_blank"
      :aria-description="text"
    >
      {{ word }}
    </NuxtLink>
    <span
      v-else
      class="word"
      :class="$attrs.class"
      tabindex="0"
      :aria-description="text"
    >{{ word }}</span>
  </el-tooltip>
</template>

<style>
.word { border-bottom: 1px dotted var(--ink-2); cursor: help; color: inherit; font-weight: inherit; }
.word:hover { text-decoration: none; }
.word-help { max-width: 340px; font-size: 13.5px; line-height: 1.4; }
</style>
