<script setup lang="ts">
import type { ReviewPlaceView, ReviewPlace } from '~/api/client'

definePageMeta({ title: 'Review' })

const review = useReviewStore()
const notices = useNoticeStore()
const route = useRoute()
const fixes = ref<{ look(): void } | null>(null)
const declining = ref(false)
const tall = ref(false)

const LANES = ['quarantine', 'spam', 'lowPriority', 'bin'] as const
const GROUPINGS = ['clause', 'sender', 'subject'] as const
const oneOfThem = <T extends string>(of: readonly T[], said: unknown): T | undefined => of.find(o => o === said)

/** Where the address says; else where most waits that a person asks for. */
function placeSaid(): ReviewPlace | null {
  const lane = oneOfThem<ReviewPlaceView['lane']>(LANES, route.query.lane)
  const by = oneOfThem(GROUPINGS, route.query.by) ?? 'clause'
  if (!lane) return null
  const words = typeof route.query.words === 'string' && route.query.words ? { words: route.query.words } : {}
  return { lane, by, quarantine: lane === 'quarantine' ? String(route.query.quarantine ?? 'general') : null, ...words }
}
onMounted(async () => {
  const said = placeSaid()
  if (said) return review.load(said)
  await review.load({ lane: 'quarantine', quarantine: 'general', by: 'clause' })
  const first = review.places?.find(p => p.copies)
  if (!review.total && first) await review.load({ lane: first.lane, quarantine: first.quarantine, by: 'clause' })
})
watch(
  () => review.place,
  ({ lane, quarantine, by, words }) => void useRouter().replace({
    query: { lane, ...(quarantine ? { quarantine } : {}), by, ...(words ? { words } : {}) },
  }),
)
watch(() => notices.undone, () => void review.load())
watch(() => review.shown?.id, () => (declining.value = false))

/** Whoever asked for it reads why not: then a reason is needed. */
function toBin() {
  if (review.meant.some(c => c.can.decline)) {
    declining.value = true
    return
  }
  void review.settle('unwanted')
}
useKeys({
  'w': () => review.can.wanted && void review.settle('wanted'),
  'u': () => review.can.unwanted && toBin(),
  'ArrowRight': () => void review.step(1),
  'ArrowLeft': () => void review.step(-1),
  'ArrowDown': () => void review.stepGroup(1),
  'ArrowUp': () => void review.stepGroup(-1),
  ' ': () => void review.select('all'),
  'l': () => void review.select('likely'),
  'm': () => fixes.value?.look(),
  'y': () => (tall.value = !tall.value),
}, () => !declining.value && !review.question)
</script>

<template>
  <div class="review">
    <h1 class="visually-hidden">
      Review
    </h1>
    <div
      v-if="review.state === 'failed'"
      class="sheet failed"
      role="alert"
    >
      <h2>Messages to review cannot be loaded</h2>
      <p>{{ review.failure }}</p>
      <PressButton @click="review.load()">
        Try again
      </PressButton>
    </div>
    <template v-else>
      <ReviewList class="sheet" />
      <ReviewCopy
        v-model:declining="declining"
        class="sheet"
        @unwanted="toBin"
      />
      <ReviewSide
        ref="fixes"
        v-model:tall="tall"
        class="sheet"
      />
    </template>
  </div>
</template>

<style scoped>
.review { flex: 1; display: grid; grid-template-columns: 272px minmax(0, 1fr) 372px; gap: 16px; min-height: 480px; }
.failed { grid-column: 1 / -1; padding: 30px; display: grid; gap: 10px; justify-items: start; align-content: start; }
@media (max-width: 980px) {
  .review { flex: none; grid-template-columns: minmax(0, 1fr); }
  .review > :deep(.queue) { max-height: 46vh; }
}
</style>
