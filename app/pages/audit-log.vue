<script setup lang="ts">
import { dayWords, timeWords } from '#core/wording'
import { api, type AuditEventView } from '~/api/client'

definePageMeta({ title: 'Audit log' })

const notices = useNoticeStore()
const session = useSessionStore()
const all = session.can('undo others’ changes')
const auditEvents = ref<AuditEventView[]>([])
const next = ref<number | null>(null)
const mine = ref(!all)
const { failure, data, load } = useReading(async () => {
  const page = await api.auditEvents({ mine: mine.value })
  auditEvents.value = page.items
  next.value = page.next
  return page
})
watch(mine, load)
afterUndo(load)

async function more() {
  try {
    const page = await api.auditEvents({ mine: mine.value, before: next.value ?? undefined })
    auditEvents.value = [...auditEvents.value, ...page.items]
    next.value = page.next
  }
  catch (error) {
    notices.failed(error)
  }
}
const days = computed(() => [...Map.groupBy(auditEvents.value, auditEvent => dayWords(auditEvent.at))])
</script>

<template>
  <div class="page">
    <div class="page-top">
      <div>
        <h1>Audit log</h1>
        <p class="second">
          {{ all ? 'Who did what' : 'What you did' }}. Actions that can be undone have a button.
        </p>
      </div>
      <el-checkbox
        v-if="all"
        v-model="mine"
      >
        Only my actions
      </el-checkbox>
    </div>
    <ReadingState
      :failure
      :ready="data !== null"
      what="the audit log"
      @again="load"
    />
    <p
      v-if="data && !auditEvents.length"
      class="second"
    >
      No events yet.
    </p>
    <section
      v-for="[day, own] in days"
      :key="day"
      class="sheet"
    >
      <h2>{{ day }}</h2>
      <ul>
        <li
          v-for="auditEvent in own"
          :key="auditEvent.id"
          :class="{ undone: auditEvent.undoneBy }"
        >
          <span class="second numbers">{{ timeWords(auditEvent.at) }}</span>
          <span><strong>{{ auditEvent.by ?? 'Sober Gate' }}</strong> <span class="what">{{ auditEvent.words }}</span><span
            v-if="auditEvent.version"
            class="second small"
          > · version {{ auditEvent.version }}</span><span
            v-if="auditEvent.undoneBy"
            class="second small"
          > · undone</span></span>
          <PressButton
            v-if="auditEvent.canUndo"
            plain
            small
            @click="notices.undoEvent(auditEvent.id)"
          >
            Undo
          </PressButton>
        </li>
      </ul>
    </section>
    <p v-if="next">
      <PressButton
        plain
        @click="more"
      >
        Show earlier events
      </PressButton>
    </p>
  </div>
</template>

<style scoped>
section { padding: 14px 20px; }
ul { list-style: none; margin: 6px 0 0; padding: 0; }
li {
  display: grid;
  grid-template-columns: 52px minmax(0, 1fr) auto;
  gap: 12px;
  padding: 6px 0;
  border-top: 1px solid var(--hairline);
  align-items: baseline;
  min-height: 38px;
}
.undone .what { text-decoration: line-through; }
</style>
