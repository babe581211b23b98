<script setup lang="ts">
definePageMeta({ title: 'Proposals' })
const store = useProposalStore()
const session = useSessionStore()
const route = useRoute()
const decides = computed(() => session.can('change all lists and rules'))
afterUndo(store.load)
onMounted(async () => {
  await store.load()
  // A link to one of them.
  await nextTick()
  document.getElementById(route.hash.slice(1))?.scrollIntoView()
  await store.sawThem()
})
const open = computed(() => (store.items ?? []).filter(p => p.state === 'open'))
const answered = computed(() => (store.items ?? []).filter(p => p.state !== 'open'))
</script>

<template>
  <div class="page">
    <div class="page-top">
      <div>
        <h1>
          <WordHelp
            word="Proposals"
            term="proposal"
          />
        </h1>
        <p class="second">
          {{ decides
            ? 'Changes proposed by users who cannot make them. The proposer sees your answer.'
            : 'Your proposed changes to shared lists and rules. An administrator decides; the answers appear here.' }}
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
      No open proposals.
      {{ decides ? '' : 'To propose a change, open a rule or list that you cannot change, edit it, and press Propose.' }}
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
