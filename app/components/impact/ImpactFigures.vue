<script setup lang="ts">
import type { ImpactView } from '~/api/client'
import { goingCount, lookedWords, scopeWords, unmarkedWords } from '~/composables/impactWords'

/** What a change would do to the mail that is here: how much, from where to where, and what people said of it. */
const { impact, looking, scale, below = false } = defineProps<{
  impact: ImpactView
  looking: boolean
  /** The most that any bar beside this one counts. */
  scale?: number
  /** How much it is stands above it already. */
  below?: boolean
}>()
const moving = computed(() => impact.lanes.filter(l => l.from !== l.to))
const staying = computed(() => impact.lanes.filter(l => l.from === l.to).reduce((sum, l) => sum + goingCount(l), 0))
const implied = computed(() => impact.implied.wanted + impact.implied.unwanted)
</script>

<template>
  <div class="figures">
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
</style>
