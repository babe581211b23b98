<script setup lang="ts">
import { MAX_FIXED } from '#core/limits'
/** The fixes of what is meant, and why it is where it is. */
const tall = defineModel<boolean>('tall', { required: true })
const review = useReviewStore()
const lit = ref<string | null>(null)
const fixes = useTemplateRef<{ look(): Promise<void> }>('fixes')
const ids = computed(() => review.meant.slice(0, MAX_FIXED).map(c => c.id))
const release = computed(() => {
  if (!review.can.wanted || review.place.lane === 'lowPriority') return ''
  const what = review.meant.length > 1 ? 'only these messages' : 'only this message'
  return review.place.lane === 'quarantine' ? `Release ${what}` : `Move ${what} to Inbox`
})
const shownId = computed(() => review.shown?.id ?? null)
const copy = computed(() => (review.copy?.id === shownId.value ? review.copy : null))
defineExpose({ look: () => fixes.value?.look() })

const { without } = useWhatIf(() => copy.value?.id ?? null)
</script>

<template>
  <aside
    class="side"
    aria-label="Suggested fixes and reasons"
  >
    <FixList
      v-if="review.shown && !tall"
      ref="fixes"
      :ids
      :likely="review.shown.likely"
      :release
      :doubted="review.meant.some(c => c.doubted)"
      @fixed="review.load()"
      @release="review.settle('wanted')"
    />
    <section
      v-if="copy"
      class="why"
    >
      <h2>
        Reasons <PressButton
          plain
          small
          :aria-pressed="tall"
          @click="tall = !tall"
        >
          {{ tall ? 'Show less' : 'Show all' }} <kbd>Y</kbd>
        </PressButton>
      </h2>
      <p
        v-if="tall || copy.movedBy"
        class="small"
      >
        {{ copy.sentence }}
      </p>
      <SenderFound
        :authentication="copy.facts.attempt.authentication"
        :content="copy.facts"
      />
      <ReasonList
        v-model:lit="lit"
        :reasons="copy.reasons"
        :decided-by="copy.decision?.decidedBy ?? null"
        :without
        :copy="copy.id"
      />
    </section>
  </aside>
</template>

<style scoped>
.side { display: flex; flex-direction: column; min-height: 0; overflow-y: auto; padding: 16px 18px; gap: 16px; }
.why { display: grid; gap: 10px; border-top: 1px solid var(--hairline); padding-top: 14px; }
.why h2 { display: flex; justify-content: space-between; align-items: baseline; }
</style>
