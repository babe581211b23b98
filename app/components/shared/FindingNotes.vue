<script setup lang="ts">
import { capitalised } from '#core/wording'
import type { FindingView } from '~/api/client'

/** What the checks find: what it is, what was seen, and what would fix it; the fix is saved here, once it was seen. */
const { findings, canFix = false } = defineProps<{ findings: readonly FindingView[], canFix?: boolean }>()
const emit = defineEmits<{ fixed: [] }>()
const open = ref<string | null>(null)
const keyOf = (f: FindingView) => `${f.clause.entry} ${f.kind} ${f.evidence}`
</script>

<template>
  <div
    v-for="f in findings"
    :key="keyOf(f)"
    class="finding small"
  >
    <p><strong>{{ capitalised(f.kind) }}</strong>: {{ f.evidence }}.</p>
    <p class="second">
      {{ f.fix }}
      <PressButton
        v-if="canFix && f.change && open !== keyOf(f)"
        plain
        small
        @click="open = keyOf(f)"
      >
        Fix…
      </PressButton>
    </p>
    <FindingFix
      v-if="f.change && open === keyOf(f)"
      :change="f.change"
      :words="f.words"
      @leave="open = null"
      @fixed="open = null; emit('fixed')"
    />
  </div>
</template>

<style scoped>
.finding { border-left: 3px solid var(--warn); padding: 2px 12px; }
</style>
