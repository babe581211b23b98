<script setup lang="ts">
import type { Sent } from '~/api/client'

/** What became of a test message that was really sent. */
defineProps<{ sent: Sent }>()
const seconds = (ms: number) => `${(ms / 1000).toFixed(2)} s`
</script>

<template>
  <div
    class="sent"
    role="status"
  >
    <h2>{{ sent.accepted ? 'The message was accepted' : 'The message was refused' }} after {{ seconds(sent.took) }}</h2>
    <p v-if="sent.copy">
      <LaneIcon :lane="sent.copy.lane" /> {{ sent.copy.reason }}
      <NuxtLink :to="{ path: '/mail', query: { open: sent.copy.id, lane: sent.copy.lane } }">
        Open in Mail
      </NuxtLink>
    </p>
    <p
      v-else-if="sent.accepted"
      class="second small"
    >
      You cannot see the mail of this recipient.
    </p>
    <p class="mono small second">
      {{ sent.reply }}
    </p>
  </div>
</template>

<style scoped>
.sent { border-left: 3px solid var(--water); padding: 2px 12px; display: grid; gap: 6px; overflow-wrap: anywhere; }
h2 { margin: 0; font-size: 16px; }
</style>
