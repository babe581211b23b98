<script setup lang="ts">
import type { Sent, DryRun } from '~/api/client'

definePageMeta({ title: 'Test a message' })

const tried = shallowRef<DryRun | null>(null)
const sent = shallowRef<Sent | null>(null)
</script>

<template>
  <div class="try">
    <div class="sheet">
      <DryRunForm
        @tried="t => tried = t"
        @sent="s => sent = s"
      >
        <h1>Test a message</h1>
        <p class="second small">
          The message is decided with the active policy and not stored. A real test message is sent by SMTP, from an unverified
          sender, and is stored.
        </p>
      </DryRunForm>
    </div>
    <section
      class="sheet"
      aria-live="polite"
    >
      <SentNote
        v-if="sent"
        :sent
      />
      <DryRunResult
        v-if="tried"
        :tried
      />
      <div
        v-else-if="!sent"
        class="second empty"
      >
        <h2>Result</h2>
        <p>
          Enter or paste a message and press <em>Run test</em>. You see the location and all lists and rules that matched.
        </p>
        <p class="small">
          From the command line: <code>npm run send -- --to ADDRESS --from ADDRESS --subject TEXT</code>
        </p>
      </div>
    </section>
  </div>
</template>

<style scoped>
.try { display: grid; grid-template-columns: minmax(380px, 5fr) 6fr; gap: 18px; align-items: start; }
.try > * { padding: 20px 24px; display: grid; gap: 12px; min-width: 0; }
.empty { display: grid; gap: 10px; }
@media (max-width: 860px) { .try { grid-template-columns: minmax(0, 1fr); } }
</style>
