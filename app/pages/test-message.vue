<script setup lang="ts">
import type { Sent, DryRun } from '~/api/client'

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
        <h1>Try a message</h1>
        <p class="second small">
          It is decided under the policy in force, and nothing of it is kept. What is really sent comes in by SMTP, unverified as from any
          stranger, and stays.
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
        <h2>Where it would go</h2>
        <p>
          Write or paste a message and press <em>Decide it</em>: here stands its lane, and every list and rule that
          matched, with what became of it.
        </p>
        <p class="small">
          From a terminal: <code>npm run send -- --to ADDRESS --from ADDRESS --subject …</code>
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
