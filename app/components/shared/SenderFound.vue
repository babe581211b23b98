<script setup lang="ts">
import { hasPlainFrom, type Authentication, type Content } from '#core/message'
import { verificationLines, verificationSentence } from '#core/words'

/** What was verified of a sender, and how: a sentence, and the results method by method behind a press. */
const { authentication, content } = defineProps<{
  authentication: Authentication
  content: Pick<Content, 'from' | 'fromFields' | 'defects'>
}>()
const fromDomain = computed(() => (hasPlainFrom(content) ? (content.from[0]?.domainUnicode ?? null) : null))
const sentence = computed(() => verificationSentence(authentication, fromDomain.value))
const lines = computed(() => (authentication.found ? verificationLines(authentication.found) : []))
</script>

<template>
  <div
    v-if="sentence"
    class="found small"
  >
    <p>{{ sentence }}</p>
    <details v-if="lines.length">
      <summary>Details</summary>
      <table>
        <tbody>
          <tr
            v-for="(l, i) in lines"
            :key="i"
          >
            <th scope="row">
              {{ l.method }}
            </th>
            <td>{{ l.result }}</td>
            <td class="second">
              {{ l.detail }}
            </td>
          </tr>
        </tbody>
      </table>
    </details>
  </div>
</template>

<style scoped>
.found { display: grid; gap: 4px; overflow-wrap: anywhere; }
summary { cursor: pointer; color: var(--water); font-weight: 600; width: fit-content; }
table { border-collapse: collapse; margin-top: 4px; }
th, td { text-align: left; vertical-align: top; padding: 2px 12px 2px 0; font-weight: 400; }
th { font-weight: 600; }
th, td:nth-child(2) { white-space: nowrap; }
</style>
