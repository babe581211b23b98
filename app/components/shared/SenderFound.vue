<script setup lang="ts">
import { hasPlainFrom, type Authentication, type Content } from '#core/message'
import { verificationSentence } from '#core/words'

/** What was verified of a sender, and how: a sentence, and the results method by method behind a press. */
const { authentication, content } = defineProps<{
  authentication: Authentication
  content: Pick<Content, 'from' | 'fromFields' | 'defects'>
}>()
const fromDomain = computed(() => (hasPlainFrom(content) ? (content.from[0]?.domainUnicode ?? null) : null))
const sentence = computed(() => verificationSentence(authentication, fromDomain.value))
</script>

<template>
  <div
    v-if="sentence"
    class="found small"
  >
    <p>{{ sentence }}</p>
    <details v-if="authentication.found">
      <summary>Details</summary>
      <MethodResults :found="authentication.found" />
    </details>
  </div>
</template>

<style scoped>
.found { display: grid; gap: 4px; overflow-wrap: anywhere; }
summary { cursor: pointer; color: var(--water); font-weight: 600; width: fit-content; }
</style>
