<script setup lang="ts">
import { api, type ReleaseRequestView } from '~/api/client'

/** What one asked for, and what became of it. */
const notices = useNoticeStore()
const review = useReviewStore()
const mine = shallowRef<ReleaseRequestView[]>([])
const STATES: Record<ReleaseRequestView['state'], string> = {
  open: 'waits for an answer',
  released: 'given',
  declined: 'not given',
  withdrawn: 'undone',
}

async function load() {
  try {
    mine.value = (await api.requests()).items.filter(r => r.mine).slice(0, 12)
    const news = mine.value.filter(r => r.news).map(r => r.id)
    if (!news.length) return
    await api.sawReleased(news)
    await review.count()
  }
  catch (error) {
    notices.failed(error)
  }
}
onMounted(load)
watch(() => notices.undone, load)
watch(() => review.total, load)
</script>

<template>
  <section
    v-if="mine.length"
    class="asked"
    aria-label="What I asked for"
  >
    <h2>What I asked for</h2>
    <ul>
      <li
        v-for="r in mine"
        :key="r.id"
        class="small"
      >
        <p>{{ r.copy?.subject || 'a message that is not here any more' }}</p>
        <p class="second">
          <strong v-if="r.news">{{ STATES[r.state] }}</strong><template v-else>
            {{ STATES[r.state] }}
          </template>{{ r.answeredBy ? `, ${r.answeredBy}` : '' }}{{ r.reason ? `: “${r.reason}”` : '' }}
        </p>
        <PressButton
          v-if="r.takesBack !== null"
          plain
          small
          @click="notices.undoEvent(r.takesBack)"
        >
          take back
        </PressButton>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.asked { padding: 12px 14px; border-top: 1px solid var(--hairline); display: grid; gap: 6px; }
h2 { font-size: 14px; }
ul { list-style: none; margin: 0; padding: 0; display: grid; gap: 8px; }
.press { margin-left: -5px; }
</style>
