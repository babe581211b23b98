<script setup lang="ts">
const store = useProposalStore()
const session = useSessionStore()
const decides = computed(() => session.can('change all clauses'))
afterUndo(store.load)
onMounted(async () => {
  await store.load()
  await store.sawThem()
})
const open = computed(() => (store.items ?? []).filter(p => p.state === 'open'))
const answered = computed(() => (store.items ?? []).filter(p => p.state !== 'open'))
</script>

<template>
  <div class="page">
    <div class="page-top">
      <div>
        <h1>Proposals</h1>
        <p class="second">
          {{ decides
            ? 'What others would have changed and may not change themselves. Whoever proposed it is told what becomes of it.'
            : 'What you would have changed for others too. An administrator decides; what became of it stands here.' }}
        </p>
      </div>
    </div>
    <ReadingState
      :failure="store.failure"
      :ready="store.items !== null"
      what="the proposals"
      @again="store.load"
    />
    <p
      v-if="store.items && !open.length"
      class="sheet none second"
    >
      Nothing waits for an answer.
      {{ decides ? '' : 'On the sheet of a rule or list that is not yours, change what you would have changed, and press Propose.' }}
    </p>
    <ProposalCard
      v-for="p in open"
      :key="p.id"
      :proposal="p"
      @answered="store.load"
    />
    <template v-if="answered.length">
      <h2>Answered</h2>
      <ProposalCard
        v-for="p in answered"
        :key="p.id"
        :proposal="p"
        @answered="store.load"
      />
    </template>
  </div>
</template>

<style scoped>
.none { padding: 18px 22px; }
.page { gap: 14px; }
</style>
