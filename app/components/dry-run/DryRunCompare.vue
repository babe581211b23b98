<script setup lang="ts">
import type { PolicyChange } from '#core/change'
import type { Sent, DryRun } from '~/api/client'

/** A message tried under what stands on a sheet, beside it: nothing of the sheet is lost. */
defineProps<{ changes: readonly PolicyChange[] | null }>()
const tried = shallowRef<DryRun | null>(null)
const sent = shallowRef<Sent | null>(null)
</script>

<template>
  <DryRunForm
    :changes
    :rows="2"
    @tried="t => tried = t"
    @sent="s => sent = s"
  >
    <h2>Test a message</h2>
    <p class="second small">
      <template v-if="changes">
        Decided with your changes and with the active policy, side by side. The message is not stored.
      </template>
      <template v-else>
        You have not changed anything yet.
      </template>
      A real test message is decided with the active policy.
    </p>
  </DryRunForm>
  <SentNote
    v-if="sent"
    :sent
  />
  <DryRunResult
    v-if="tried"
    :tried
  />
</template>
