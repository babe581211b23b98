<script setup lang="ts">
import type { FindingTold } from '~/api/client'

/** What the checks find: what it is, what was seen, and what would mend it; the mend is put in force here, once it was seen. */
const { findings, mayMend = false } = defineProps<{ findings: readonly FindingTold[], mayMend?: boolean }>()
const emit = defineEmits<{ mended: [] }>()
const open = ref<string | null>(null)
const keyOf = (f: FindingTold) => `${f.clause.entry} ${f.kind} ${f.evidence}`
</script>

<template>
  <div
    v-for="f in findings"
    :key="keyOf(f)"
    class="finding small"
  >
    <p><strong>{{ f.kind }}</strong>: {{ f.evidence }}.</p>
    <p class="second">
      {{ f.mend }}
      <PressButton
        v-if="mayMend && f.change && open !== keyOf(f)"
        plain
        small
        @click="open = keyOf(f)"
      >
        Put it right …
      </PressButton>
    </p>
    <FindingMend
      v-if="f.change && open === keyOf(f)"
      :change="f.change"
      :words="f.words"
      @leave="open = null"
      @mended="open = null; emit('mended')"
    />
  </div>
</template>

<style scoped>
.finding { border-left: 3px solid var(--warn); padding: 2px 12px; }
</style>
