<script setup lang="ts">
import type { LineOutcome } from '#core/check'
import { counted, numberWords } from '#core/wording'
import type { PasteView } from '~/api/client'

/** Line by line what becomes, or became, of what was pasted. */
const { report, done } = defineProps<{
  report: PasteView
  /** It is on the list now, and not only looked at. */
  done: boolean
}>()
const MAX = 50
const WORDS: Record<LineOutcome, string> = {
  'new': 'new',
  'in part': 'taken out of a longer line',
  'there': 'already on the list',
  'twice': 'duplicate in your text',
  'covered': 'included in another entry',
  'contrary': 'conflicts with another list',
  'doubtful': 'to check',
  'not understood': 'not understood',
}
const shown = ref<LineOutcome | null>(null)
const all = ref(false)
const OUTCOMES = Object.keys(WORDS) as LineOutcome[]
const counts = computed(() => OUTCOMES.filter(o => report.counts[o]).map(outcome => ({ outcome, n: report.counts[outcome] })))
const ADDED: readonly LineOutcome[] = ['new', 'in part', 'covered', 'contrary', 'doubtful']
const WARNED: readonly LineOutcome[] = ['contrary', 'doubtful', 'not understood']
const added = computed(() => ADDED.reduce((sum, o) => sum + report.counts[o], 0))
const lines = computed(() => report.lines.filter(l => shown.value === null || l.outcome === shown.value))
watch(() => report, () => {
  if (shown.value && !report.counts[shown.value]) shown.value = null
})
const addedWords = computed(() => {
  const left = report.counts['not understood']
  const rest = left ? `; ${counted(left, 'line')} not added, left in the field to correct` : ''
  return `${counted(added.value, 'entry', 'entries')} added${rest}.`
})
</script>

<template>
  <div
    class="report small"
    role="status"
  >
    <p>
      {{ done ? addedWords : 'Report per line:' }}
    </p>
    <p
      class="counts"
      role="group"
      aria-label="Lines shown"
    >
      <template
        v-for="c in counts"
        :key="c.outcome"
      >
        <span v-if="c.outcome === 'new'"><span class="numbers">{{ numberWords(c.n) }}</span> new</span>
        <PressButton
          v-else
          plain
          small
          :class="{ warn: WARNED.includes(c.outcome) }"
          :aria-pressed="shown === c.outcome"
          @click="shown = shown === c.outcome ? null : c.outcome"
        >
          <span class="numbers">{{ numberWords(c.n) }}</span> {{ WORDS[c.outcome] }}
        </PressButton>
      </template>
    </p>
    <table v-if="lines.length">
      <thead class="visually-hidden">
        <tr>
          <th scope="col">
            line
          </th><th scope="col">
            text and result
          </th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="l in all ? lines : lines.slice(0, 8)"
          :key="l.line"
        >
          <td class="numbers second">
            {{ numberWords(l.line) }}
          </td>
          <td>
            <span class="mono">{{ l.text }}</span>
            <span
              class="why"
              :class="WARNED.includes(l.outcome) ? 'warn' : 'second'"
            >{{ l.why }}</span>
          </td>
        </tr>
      </tbody>
    </table>
    <PressButton
      v-if="!all && lines.length > 8"
      plain
      small
      @click="all = true"
    >
      {{ lines.length > MAX ? `Show the first ${numberWords(MAX)}` : `Show all ${numberWords(lines.length)}` }}
    </PressButton>
  </div>
</template>

<style scoped>
.report { display: grid; gap: 4px; width: 100%; min-width: 0; }
.counts { display: flex; flex-wrap: wrap; gap: 0 10px; align-items: baseline; }
table { border-collapse: collapse; width: 100%; }
td { padding: 3px 8px 3px 0; border-bottom: 1px solid var(--hairline); vertical-align: top; overflow-wrap: anywhere; }
td:first-child { width: 1%; text-align: right; white-space: nowrap; }
.why { display: block; }
</style>
