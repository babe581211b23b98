<script setup lang="ts">
import type { Finding } from '#core'

/** What the checks find: what it is, what was seen, and what would mend it. */
defineProps<{ findings: readonly Finding[] }>()
</script>

<template>
  <div
    v-for="f in findings"
    :key="`${f.clause.entry} ${f.kind} ${f.evidence}`"
    class="finding small"
  >
    <p><strong>{{ f.kind }}</strong>: {{ f.evidence }}.</p>
    <p class="second">
      {{ f.mend }}
    </p>
  </div>
</template>

<style scoped>
.finding { border-left: 3px solid var(--warn); padding: 2px 12px; }
</style>
