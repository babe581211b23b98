<script setup lang="ts">
import { numberWords } from '#core/wording'

const {
  impact,
  scale,
  empty = 'no messages yet',
  bare = false,
} = defineProps<{
  impact: { wanted: number, unwanted: number, unmarked: number }
  /** The most that any bar beside this one counts, so that 3 does not look like 3,000. */
  scale: number
  /** What is said where it counts nothing. */
  empty?: string
  /** The numbers stand beside it already. */
  bare?: boolean
}>()
const total = computed(() => impact.wanted + impact.unwanted + impact.unmarked)
const share = (n: number) => `${scale ? (100 * n) / scale : 0}%`
const words = computed(
  () =>
    (['wanted', 'unwanted', 'unmarked'] as const)
      .filter(k => impact[k])
      .map(k => `${numberWords(impact[k])} ${k === 'unmarked' ? 'not marked' : k}`)
      .join(' · ') || empty,
)
</script>

<template>
  <span class="impact">
    <span
      v-if="total"
      class="bar"
      aria-hidden="true"
    >
      <i
        class="wanted"
        :style="{ width: share(impact.wanted) }"
      />
      <i
        class="unwanted"
        :style="{ width: share(impact.unwanted) }"
      />
      <i
        class="unmarked"
        :style="{ width: share(impact.unmarked) }"
      />
    </span>
    <span
      v-if="!bare"
      class="second small"
    >{{ words }}</span>
  </span>
</template>

<style scoped>
.impact { display: flex; gap: 8px; align-items: center; min-width: 0; }
.bar { display: flex; width: var(--bar, 110px); height: 8px; flex: none; }
i { height: 100%; display: block; min-width: 0; }
.wanted { background: var(--wanted); }
.unwanted { background: repeating-linear-gradient(90deg, var(--unwanted) 0 3px, var(--sheet) 3px 5px); }
.unmarked { border: 1px solid var(--ink-2); background: none; }
i[style*='width: 0%'] { display: none; }
</style>
