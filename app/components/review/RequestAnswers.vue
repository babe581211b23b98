<script setup lang="ts">
import { api, type ReleaseRequestView } from '~/api/client'

/** One's own release requests and their answers. */
const notices = useNoticeStore()
const review = useReviewStore()
const mine = shallowRef<ReleaseRequestView[]>([])
const STATES: Record<ReleaseRequestView['state'], string> = {
  open: 'waiting for an answer',
  released: 'released',
  declined: 'declined',
  withdrawn: 'withdrawn',
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
    aria-label="My release requests"
  >
    <h2>My release requests</h2>
    <ul>
      <li
        v-for="r in mine"
        :key="r.id"
        class="small"
      >
        <p>{{ r.copy?.subject || 'a message that no longer exists' }}</p>
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
          Withdraw
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
