<script setup lang="ts">
import { isKeptAway } from '#core/policy'
import { isWhole } from '#core/simulate'
import { counted, plural } from '#core/wording'
import type { ImpactView } from '~/api/client'
import { goingCount, scopeWords, soFarWords, unmarkedWords } from '~/composables/impactWords'

/** What a change would do to the mail that is here: how much, from where to where, and what people said of it. */
const { impact, scale, below = false } = defineProps<{
  impact: ImpactView
  /** The most that any bar beside this one counts. */
  scale?: number
  /** How much it is stands above it already. */
  below?: boolean
}>()
const moving = computed(() => impact.lanes.filter(l => l.from !== l.to))
const staying = computed(() => impact.lanes.filter(l => l.from === l.to).reduce((sum, l) => sum + goingCount(l), 0))
// More of it is kept away than before.
const stops = computed(() => moving.value.some(l => !isKeptAway(l.from) && isKeptAway(l.to)))
const implied = computed(() => impact.implied.wanted + impact.implied.unwanted)
</script>

<template>
  <div class="figures">
    <p
      v-if="!isWhole(impact)"
      class="small second"
    >
      {{ soFarWords(impact) }}.
    </p>
    <p
      v-if="!below"
      role="status"
    >
      {{ scopeWords(impact) }}
    </p>
    <ImpactBar
      v-if="impact.copies"
      :impact
      :scale="scale ?? impact.copies"
    />
    <p
      v-if="impact.wanted + impact.unwanted"
      class="small second"
    >
      <MarkCounts
        :wanted="impact.wanted"
        :unwanted="impact.unwanted"
        :implied
        :blocks="stops"
      />
    </p>
    <p
      v-if="impact.unmarked"
      class="small second"
    >
      {{ unmarkedWords(impact) }}
    </p>
    <LaneMoves
      :moves="moving"
      label="Moves"
    />
    <p
      v-if="staying"
      class="small second"
    >
      {{ counted(staying, 'message') }} {{ plural(staying, 'is', 'are') }} not moved: another list or rule has precedence.
    </p>
    <p
      v-if="impact.unknown"
      class="small second"
    >
      {{ counted(impact.unknown, 'message') }} cannot be simulated: only the log entry is left.
    </p>
  </div>
</template>

<style scoped>
.figures { display: grid; gap: 5px; min-width: 0; }
</style>
