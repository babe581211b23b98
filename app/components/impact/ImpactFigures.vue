<script setup lang="ts">
import { wilson } from '#core/rehearse'
import type { ImpactTold } from '~/api/client'
import { goingCount, lookedWords, reachWords, unjudgedWords } from '~/composables/impactWords'

/** What a change would do to the mail that is here: how much, from where to where, and what people said of it. */
const { impact, looking, scale, below = false } = defineProps<{
  impact: ImpactTold
  looking: boolean
  /** The most that any bar beside this one counts. */
  scale?: number
  /** How much it is stands above it already. */
  below?: boolean
}>()
const moving = computed(() => impact.lanes.filter(l => l.from !== l.to))
const staying = computed(() => impact.lanes.filter(l => l.from === l.to).reduce((sum, l) => sum + goingCount(l), 0))
const judged = computed(() => impact.wanted + impact.unwanted)
const implied = computed(() => impact.implied.wanted + impact.implied.unwanted)
const percent = (share: number) => `${Math.round(share * 100)} %`
const interval = computed(() => wilson(impact.unwanted, judged.value).map(percent).join(' to '))
</script>

<template>
  <div class="figures">
    <p
      v-if="!below"
      role="status"
    >
      {{ reachWords(impact) }}
    </p>
    <ImpactBar
      v-if="impact.copies"
      :impact
      :scale="scale ?? impact.copies"
    />
    <details
      v-if="judged"
      class="small second"
    >
      <summary>{{ impact.unwanted }} of {{ judged }} judged were unwanted</summary>
      {{ implied ? `${implied} of them by a move, not by a word. ` : '' }}As far as so few say, between {{ interval }} of such mail is
      unwanted (95 % sure).
    </details>
    <p
      v-if="impact.unjudged"
      class="small second"
    >
      {{ unjudgedWords(impact) }}
    </p>
    <LaneMoves
      :moves="moving"
      label="From where to where"
    />
    <p
      v-if="staying"
      class="small second"
    >
      {{ staying.toLocaleString('en') }} stay where {{ staying === 1 ? 'it is' : 'they are' }}: something else decides there.
    </p>
    <p
      v-if="lookedWords(impact, looking)"
      class="small second"
    >
      {{ lookedWords(impact, looking) }}
    </p>
  </div>
</template>

<style scoped>
.figures { display: grid; gap: 5px; min-width: 0; }
summary { cursor: pointer; text-decoration: underline dotted; text-underline-offset: 3px; display: inline; }
</style>
