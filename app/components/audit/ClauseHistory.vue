<script setup lang="ts">
import { useAuditEvents } from '~/composables/auditEvents'

/** The part of the audit log that changed this rule or list. */
const { rule, list } = defineProps<{ rule?: string, list?: string }>()
const { events, next, failure, ready, load, more } = useAuditEvents(() => ({ rule, list, limit: 20 }))
</script>

<template>
  <section class="history">
    <h2>History</h2>
    <ReadingState
      :failure
      :ready
      what="the history"
      @again="load"
    />
    <p
      v-if="ready && !events.length"
      class="second small"
    >
      No changes on record.
    </p>
    <EventList
      :events
      dated
    />
    <PressButton
      v-if="next"
      plain
      @click="more"
    >
      Show earlier events
    </PressButton>
  </section>
</template>

<style scoped>
.history { display: grid; gap: 6px; justify-items: start; }
.history > :deep(section) { width: 100%; }
</style>
