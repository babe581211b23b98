<script setup lang="ts">
import { isKeptAway, KEPT_LANES } from '#core/policy'
import { counted, oneOf, quoted } from '#core/wording'
import { api, type NewlyStopped } from '~/api/client'

/** Says once that a rule or list of the organisation began to stop mail from senders whose mail the user opens. */
const items = ref<NewlyStopped[]>([])
onMounted(async () => {
  try {
    items.value = (await api.newlyStopped()).items
  }
  catch (error) {
    // The mail itself is shown all the same.
    console.warn(error)
  }
})
const first = computed(() => items.value[0])
const words = computed(() => {
  if (!first.value) return ''
  const { clause: { kind, name }, messages, senders, since } = first.value
  return `${kind === 'rule' ? 'Rule' : 'List'} ${quoted(name)} now stops mail from senders whose mail you open: `
    + `${counted(messages, 'message')} from ${oneOf(senders, 'and', 3)} since ${shortWhen(since)}.`
})
async function seen() {
  const [read, ...rest] = items.value
  items.value = rest
  try {
    if (read) await api.sawStopped(read.clause.id)
  }
  catch (error) {
    // It is said again after the next reload.
    console.warn(error)
  }
}
const STOPPED = KEPT_LANES.filter(isKeptAway).join()
</script>

<template>
  <section
    v-if="first"
    class="news small"
    role="status"
    aria-label="Newly stopped mail"
  >
    <span>{{ words }}</span>
    <span class="actions">
      <NuxtLink
        :to="{ path: '/mail', query: { touchedBy: first.clause.id, lane: STOPPED } }"
        @click="seen"
      >Show</NuxtLink>
      <PressButton
        plain
        small
        @click="seen"
      >
        Close
      </PressButton>
    </span>
  </section>
</template>

<style scoped>
.news {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  align-items: baseline;
  border-left: 3px solid var(--warn);
  padding: 2px 12px;
  overflow-wrap: anywhere;
}
</style>
