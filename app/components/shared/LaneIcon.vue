<script setup lang="ts">
import type { Lane } from '#core'
import { FILED, LANE_NAMES } from '#core/words'

const {
  lane,
  name,
  quiet = false,
  filed = false,
} = defineProps<{
  lane: Lane
  name?: string
  /** Out of Inbox. */
  filed?: boolean
  /** The word is only for those who hear it. */
  quiet?: boolean
}>()
const COLOR: Record<Lane, string> = {
  inbox: 'inbox',
  lowPriority: 'slow',
  spam: 'spam',
  quarantine: 'quarantine',
  bin: 'bin',
  refused: 'refused',
  discarded: 'refused',
  sent: 'inbox',
}
</script>

<template>
  <span
    class="lane"
    :style="{ '--lane': `var(--lane-${COLOR[lane]})` }"
  >
    <svg
      viewBox="0 0 12 12"
      width="11"
      height="11"
      aria-hidden="true"
    >
      <path
        v-if="filed"
        d="M1 2.5h10v2H1zM1 7.5h10v2H1z"
        fill="currentColor"
      />
      <circle
        v-else-if="lane === 'inbox'"
        cx="6"
        cy="6"
        r="5"
        fill="currentColor"
      />
      <g v-else-if="lane === 'lowPriority'"><circle
        cx="6"
        cy="6"
        r="4.4"
        fill="none"
        stroke="currentColor"
        stroke-width="1.4"
      /><path
        d="M1.5 6a4.5 4.5 0 0 0 9 0z"
        fill="currentColor"
      /></g>
      <path
        v-else-if="lane === 'spam'"
        d="M1 1.5h10L6 11z"
        fill="currentColor"
      />
      <path
        v-else-if="lane === 'quarantine'"
        d="M2 1.5h3v9H2zM7 1.5h3v9H7z"
        fill="currentColor"
      />
      <rect
        v-else-if="lane === 'bin'"
        x="1.8"
        y="1.8"
        width="8.4"
        height="8.4"
        fill="none"
        stroke="currentColor"
        stroke-width="1.6"
      />
      <path
        v-else-if="lane === 'refused'"
        d="M1 4.6h10v2.8H1z"
        fill="currentColor"
      />
      <path
        v-else-if="lane === 'sent'"
        d="M1.5 1.5 10.5 6l-9 4.5z"
        fill="none"
        stroke="currentColor"
        stroke-width="1.6"
      />
      <path
        v-else
        d="M1 4.6h2.6v2.8H1zM4.7 4.6h2.6v2.8H4.7zM8.4 4.6H11v2.8H8.4z"
        fill="currentColor"
      />
    </svg>
    <span :class="{ 'visually-hidden': quiet }">{{ name ?? (filed ? FILED : LANE_NAMES[lane]) }}</span>
  </span>
</template>

<style scoped>
.lane { display: inline-flex; align-items: center; gap: 8px; white-space: nowrap; min-width: 0; }
.lane > span { overflow: hidden; text-overflow: ellipsis; }
svg { color: var(--lane); flex: none; }
</style>
