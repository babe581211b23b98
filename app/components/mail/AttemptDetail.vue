<script setup lang="ts">
import { attemptWords } from '#core/words'
import { capitalised, instantWords } from '#core/wording'
import type { AttemptView } from '~/api/client'

/** An attempt without a message that could be opened: refused before it was sent, or of which only the log entry is kept. */
const { attempt } = defineProps<{ attempt: AttemptView }>()
const directory = useDirectoryStore()
</script>

<template>
  <article
    class="attempt"
    :aria-label="attempt.subject ?? 'no message received'"
  >
    <h2 class="subject">
      {{ attempt.subject ?? 'No message received' }}
    </h2>
    <dl>
      <dt>Time</dt>
      <dd class="numbers">
        {{ instantWords(attempt.at) }}
      </dd>
      <dt>From</dt>
      <dd>
        <span class="mono">{{ attempt.mailFrom || 'the null sender' }}</span><template
          v-if="attempt.from && attempt.from !== attempt.mailFrom"
        >
          (From: <span class="mono">{{ attempt.from }}</span>)
        </template>
      </dd>
      <dt>To</dt>
      <dd class="mono">
        {{ attempt.rcptTo ?? 'no recipient given' }}
      </dd>
      <template v-if="attempt.client">
        <dt>Server</dt>
        <dd class="mono">
          {{ attempt.client }}
        </dd>
      </template>
    </dl>
    <p>{{ capitalised(attemptWords(attempt, directory.names)) }}.</p>
    <p
      v-if="attempt.sentence"
      class="second"
    >
      {{ attempt.sentence }}
    </p>
    <p
      v-for="step in attempt.onward"
      :key="step.at"
      class="second small"
    >
      {{ instantWords(step.at) }}: {{ step.words }}
    </p>
  </article>
</template>

<style scoped>
.attempt { padding: 16px 20px; display: grid; gap: 12px; }
.subject { font-size: 19px; overflow-wrap: anywhere; }
dl { display: grid; grid-template-columns: 62px minmax(0, 1fr); gap: 4px 10px; margin: 0; font-size: 14px; }
dt { color: var(--ink-2); }
dd { margin: 0; overflow-wrap: anywhere; }
</style>
