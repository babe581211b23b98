<script setup lang="ts">
import { isDelivered } from '#core/policy'
import type { LaneChange } from '#core/simulate'
import { numberWords } from '#core/wording'
import { goingCount } from '~/composables/impactWords'

/** From which lane to which, how many, and what of it would be a mistake. */
defineProps<{ moves: readonly (Omit<LaneChange, 'notVerified'> & { notVerified?: number })[], label: string }>()
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
      <span class="numbers">{{ numberWords(goingCount(l)) }}</span>
      <span
        v-if="l.wanted && isDelivered(l.from)"
        class="warn"
      >{{ numberWords(l.wanted) }} marked wanted</span>
      <span
        v-if="l.unwanted && isDelivered(l.to)"
        class="warn"
      >{{ numberWords(l.unwanted) }} marked unwanted</span>
      <span
        v-if="l.notVerified && isDelivered(l.to) && !isDelivered(l.from)"
        class="warn"
      >{{ numberWords(l.notVerified) }} not verified</span>
    </li>
  </ul>
</template>

<style scoped>
ul { list-style: none; margin: 0; padding: 0; display: grid; gap: 2px; }
li { display: flex; flex-wrap: wrap; gap: 4px 8px; align-items: center; }
</style>
