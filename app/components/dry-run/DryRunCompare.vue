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
    <h2>Try a message</h2>
    <p class="second small">
      <template v-if="changes">
        Decided under this sheet and under what is in force, side by side, and not kept.
      </template>
      <template v-else>
        The sheet says nothing else than what is in force.
      </template>
      What is really sent meets what is in force.
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
