<script setup lang="ts">
import isSame from 'fast-deep-equal'
import { useDebounceFn } from '@vueuse/core'
import { isKeptAway, KEPT_LANES, type Lane } from '#core/policy'
import type { CopyQuery } from '~/api/client'

const mail = useMailStore()
const session = useSessionStore()
const directory = useDirectoryStore()
const route = useRoute()
const router = useRouter()
const tab = ref<'text' | 'reasons' | 'source'>('text')
const ledger = ref<{ focus(): void } | null>(null)

// What is shown stands in the address, so that it can be kept and passed on.
const shown = computed(() => {
  const one = (key: string) => (typeof route.query[key] === 'string' ? route.query[key] : '')
  return {
    lane: one('lane'),
    since: one('since'),
    who: one('who'),
    judgement: one('judgement'),
    words: one('words'),
    touchedBy: one('touchedBy'),
  }
})
const words = ref(shown.value.words)

const LANES: { value: string, name: string }[] = [
  { value: '', name: 'every lane' },
  ...KEPT_LANES.map(lane => ({ value: lane, name: lane })),
  { value: KEPT_LANES.filter(isKeptAway).join(), name: 'all that was stopped' },
]
const JUDGEMENTS = [
  { value: '', name: 'judged or not' },
  { value: 'wanted', name: 'judged wanted' },
  { value: 'unwanted', name: 'judged unwanted' },
  { value: 'unjudged', name: 'unjudged' },
]
const people = computed(() => [
  { value: '', name: 'everyone' },
  ...(directory.data?.people ?? []).map(p => ({ value: p.id, name: p.name })),
])
const touched = computed(() => {
  const id = shown.value.touchedBy
  return id ? (directory.names.lists.find(l => l.id === id)?.name ?? 'one rule') : ''
})

function narrow(change: Partial<typeof shown.value>) {
  const query = Object.fromEntries(Object.entries({ ...shown.value, ...change }).filter(([, v]) => v))
  void router.replace({ query })
}
const search = useDebounceFn(() => narrow({ words: words.value.trim() }), 250)

function queryOf(s: typeof shown.value): CopyQuery {
  return {
    lane: s.lane ? s.lane.split(',') : undefined,
    recipient: s.who || undefined,
    judgement: s.judgement || undefined,
    words: s.words || undefined,
    touchedBy: s.touchedBy || undefined,
    after: s.since ? new Date(`${s.since}T00:00`).toISOString() : undefined,
  }
}
watch(
  shown,
  (now, before) => {
    if (!isSame(now, before)) void mail.show(queryOf(now))
  },
  { immediate: true },
)

function open(id: number) {
  void mail.openCopy(id)
}
const follow = useDebounceFn(() => {
  const at = mail.items[mail.cursor]
  if (mail.open && at && at.id !== mail.open.id) open(at.id)
}, 200)
watch(
  () => mail.cursor,
  () => void follow(),
)

function step(by: number) {
  mail.cursor = Math.max(0, Math.min(mail.items.length - 1, mail.cursor + by))
  ledger.value?.focus()
}
const mayHold = computed(() => session.may('hold and release'))
// The keys 1 to 5, in the order of the lanes.
const MOVES = KEPT_LANES.map((lane, i) => ({ lane, key: String(i + 1), name: lane }))
const moves = computed(() => MOVES.filter(m => mayHold.value || m.lane !== 'quarantine'))
useKeys({
  'ArrowDown': () => step(1),
  'ArrowUp': () => step(-1),
  'PageDown': () => step(15),
  'PageUp': () => step(-15),
  'Home': () => step(-mail.items.length),
  'Enter': () => mail.items[mail.cursor] && open(mail.items[mail.cursor]!.id),
  ' ': () => mail.items[mail.cursor] && mail.toggle(mail.items[mail.cursor]!.id),
  'Escape': () => (mail.chosen.size ? (mail.chosen = new Set()) : mail.close()),
  'w': () => void mail.judge('wanted'),
  'u': () => void mail.judge('unwanted'),
  'y': () => {
    tab.value = 'reasons'
    const at = mail.items[mail.cursor]
    if (!mail.open && at) open(at.id)
  },
  ...Object.fromEntries(MOVES.map(m => [m.key, () => void mail.move(m.lane)])),
})
const said = computed(() => mail.subject.every(c => c.judgementStrength === 'said') && mail.subject.length > 0)
const laneOf = (value: string) => value as Lane
onUnmounted(() => mail.close())
</script>

<template>
  <div class="mail">
    <div class="showing">
      <span>Showing</span>
      <ChoiceField
        v-slot="{ option }"
        :model-value="shown.lane"
        :options="LANES"
        label="Lane"
        :width="158"
        @update:model-value="(v: string) => narrow({ lane: v })"
      >
        <LaneMark
          v-if="option.value && !option.value.includes(',')"
          :lane="laneOf(option.value)"
        /><span v-else>{{ option.name }}</span>
      </ChoiceField>
      <span>since</span>
      <el-date-picker
        class="line-field since"
        style="width: 134px"
        :model-value="shown.since"
        type="date"
        value-format="YYYY-MM-DD"
        format="D MMM YYYY"
        placeholder="the beginning"
        aria-label="Since"
        @update:model-value="(v: string | null) => narrow({ since: v ?? '' })"
      />
      <template v-if="people.length > 2">
        <span>for</span>
        <ChoiceField
          :model-value="shown.who"
          :options="people"
          label="For whom"
          filterable
          :width="132"
          @update:model-value="(v: string) => narrow({ who: v })"
        />
      </template>
      <ChoiceField
        :model-value="shown.judgement"
        :options="JUDGEMENTS"
        label="Judgement"
        :width="138"
        @update:model-value="(v: string) => narrow({ judgement: v })"
      />
      <span>mentioning</span>
      <el-input
        v-model="words"
        class="line-field words"
        placeholder="words, a sender, a subject"
        aria-label="Mentioning"
        clearable
        @input="search"
        @keyup.enter="narrow({ words: words.trim() })"
      />
      <PressButton
        v-if="touched"
        plain
        @click="narrow({ touchedBy: '' })"
      >
        touched by {{ touched }} ×
      </PressButton>
      <span
        class="count second small"
        role="status"
      >{{ mail.state === 'loading' ? 'looking …' : mail.count ? countWords(mail.count) : '' }}</span>
    </div>
    <div
      v-if="mail.state === 'failed'"
      class="sheet failed"
      role="alert"
    >
      <h2>The mail cannot be shown</h2>
      <p>{{ mail.failure }}</p>
      <PressButton
        @click="mail.reload(true)"
      >
        Try again
      </PressButton>
    </div>
    <div
      v-else
      class="two"
    >
      <MailLedger
        ref="ledger"
        @open="open"
      >
        <template #nothing>
          <h2>Nothing matches</h2>
          <p class="second">
            No copy {{ session.may('see everybody’s mail') ? 'here' : 'of yours' }} fits all of this. Widen it: every
            lane, an earlier day, fewer words.
          </p>
          <PressButton
            @click="words = ''; router.replace({ query: {} })"
          >
            Show everything
          </PressButton>
        </template>
      </MailLedger>
      <aside class="sheet side">
        <MailReader
          v-if="mail.open"
          v-model:tab="tab"
          :copy="mail.open"
        />
        <div
          v-else
          class="closed second"
        >
          <p>Open a message to read it, and why it is where it is.</p>
          <p class="small">
            <kbd>↑</kbd> <kbd>↓</kbd> move, <kbd>Enter</kbd> opens, <kbd>Space</kbd> chooses, <kbd>?</kbd> lists the keys.
          </p>
        </div>
        <footer v-if="mail.subject.length && (mail.open || mail.chosen.size)">
          <p
            v-if="mail.chosen.size"
            class="small"
          >
            <strong>{{ mail.chosen.size }} chosen</strong>
            <PressButton
              plain
              @click="mail.chosen = new Set()"
            >
              none
            </PressButton>
          </p>
          <div class="acts">
            <PressButton

              first
              @click="mail.judge('wanted')"
            >
              Wanted <kbd>W</kbd>
            </PressButton>
            <PressButton
              @click="mail.judge('unwanted')"
            >
              Unwanted <kbd>U</kbd>
            </PressButton>
            <PressButton
              v-if="said"
              plain
              @click="mail.judge(null)"
            >
              Unsay
            </PressButton>
          </div>
          <div class="acts">
            <span class="second small">send to</span>
            <button
              v-for="m in moves"
              :key="m.lane"
              class="press lane"
              type="button"
              @click="mail.move(m.lane)"
            >
              {{ m.name }} <kbd>{{ m.key }}</kbd>
            </button>
          </div>
        </footer>
      </aside>
    </div>
  </div>
</template>

<style scoped>
.mail { flex: none; display: flex; flex-direction: column; height: calc(100vh - 86px); min-height: 480px; }
.showing { display: flex; flex-wrap: wrap; align-items: center; gap: 4px 8px; padding: 2px 0 10px; }
.words { width: 190px; flex: 1; max-width: 300px; }
.count { margin-left: auto; }
.two { flex: 1; display: grid; grid-template-columns: minmax(0, 1fr) 414px; gap: 18px; min-height: 0; }
.side { display: flex; flex-direction: column; min-height: 0; }
.closed { padding: 40px 24px; display: grid; gap: 10px; flex: 1; align-content: start; }
footer { border-top: 1px solid var(--hairline); padding: 12px 20px; display: grid; gap: 8px; }
.acts { display: flex; flex-wrap: wrap; gap: 6px; align-items: center; }
.acts .lane { padding: 3px 6px; font-size: 13px; gap: 5px; }
.failed { padding: 30px; display: grid; gap: 10px; justify-items: start; }
@media (max-width: 980px) {
  .mail { height: auto; }
  .two { grid-template-columns: minmax(0, 1fr); }
  .two :deep(.ledger) { height: 60vh; }
}
</style>
