<script setup lang="ts">
import type { AuditEventFilter } from '~/api/client'
import { useAuditEvents } from '~/composables/auditEvents'

definePageMeta({ title: 'Audit log' })

const session = useSessionStore()
const directory = useDirectoryStore()
const route = useRoute()
const router = useRouter()
const all = session.can('undo others’ changes')

const KEYS = ['person', 'kind', 'since', 'until'] as const
const shown = computed(() =>
  Object.fromEntries(KEYS.map(key => [key, typeof route.query[key] === 'string' ? route.query[key] : ''])) as Record<(typeof KEYS)[number], string>)
function narrow(changed: Partial<Record<(typeof KEYS)[number], string>>) {
  const said = Object.entries({ ...shown.value, ...changed }).filter(([, value]) => value)
  void router.replace({ query: Object.fromEntries(said) })
}
const people = computed(() => [
  { value: '', name: 'All users' },
  ...(directory.data?.people ?? []).map(p => ({ value: p.id, name: p.id === session.person?.id ? `${p.name} (you)` : p.name })),
  { value: 'product', name: 'Sober Gate itself' },
])
const KINDS: { value: '' | NonNullable<AuditEventFilter['kind']>, name: string }[] = [
  { value: '', name: 'All events' },
  { value: 'messages', name: 'Messages' },
  { value: 'policy', name: 'Lists and rules' },
  { value: 'requests', name: 'Requests and proposals' },
  { value: 'users', name: 'Users' },
  { value: 'settings', name: 'Settings' },
  { value: 'undone', name: 'Undo' },
]
const filter = computed<AuditEventFilter>(() => {
  const { person, kind, since, until } = shown.value
  return {
    ...(all && person ? { person } : {}),
    ...(kind ? { kind: kind as AuditEventFilter['kind'] } : {}),
    ...daysAsked(since, until),
  }
})
const { events, next, failure, ready, load, more } = useAuditEvents(() => filter.value)
const file = computed(() => `/api/audit-events/csv?${new URLSearchParams(Object.entries(filter.value) as [string, string][])}`)
const isNarrowed = computed(() => Object.values(shown.value).some(Boolean))
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
      <a
        v-if="all"
        :href="file"
        download="audit-log.csv"
      >Export as CSV</a>
    </div>
    <div class="showing">
      <ChoiceField
        v-if="all"
        :model-value="shown.person"
        :options="people"
        label="User"
        filterable
        :width="210"
        @update:model-value="(person: string) => narrow({ person })"
      />
      <ChoiceField
        :model-value="shown.kind"
        :options="KINDS"
        label="Kind of event"
        :width="200"
        @update:model-value="(kind: string) => narrow({ kind })"
      />
      <DayRange
        :since="shown.since"
        :until="shown.until"
        @update:since="(since: string) => narrow({ since })"
        @update:until="(until: string) => narrow({ until })"
      />
    </div>
    <ReadingState
      :failure
      :ready
      what="the audit log"
      @again="load"
    />
    <p
      v-if="ready && !events.length"
      class="second"
    >
      {{ isNarrowed ? 'No events match. Choose other users, kinds or days.' : 'No events yet.' }}
    </p>
    <EventList :events />
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
.showing { display: flex; flex-wrap: wrap; align-items: center; gap: 4px 10px; }
</style>
