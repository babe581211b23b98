<script setup lang="ts">
import { isDelivered } from '#core/policy'
import type { LaneChange } from '#core/simulate'
import { goingCount } from '~/composables/impactWords'

/** From which lane to which, how many, and what of it would be a mistake. */
defineProps<{ moves: readonly LaneChange[], label: string }>()
</script>

<template>
  <ul
    v-if="moves.length"
    class="small"
    :aria-label="label"
  >
    <li
      v-for="l in moves"
      :key="`${l.from} ${l.to}`"
    >
      <LaneIcon :lane="l.from" /> <span aria-hidden="true">→</span><span class="visually-hidden">to</span> <LaneIcon :lane="l.to" />
      <span class="numbers">{{ goingCount(l).toLocaleString('en') }}</span>
      <span
        v-if="l.wanted && isDelivered(l.from)"
        class="warn"
      >{{ l.wanted }} judged wanted</span>
      <span
        v-if="l.unwanted && isDelivered(l.to)"
        class="warn"
      >{{ l.unwanted }} judged unwanted</span>
    </li>
  </ul>
</template>

<style scoped>
ul { list-style: none; margin: 0; padding: 0; display: grid; gap: 2px; }
li { display: flex; flex-wrap: wrap; gap: 4px 8px; align-items: center; }
</style>
