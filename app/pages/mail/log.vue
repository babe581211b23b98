<script setup lang="ts">
import { attemptWords, type Audience } from '#core/words'
import { capitalised, counted, instantWords } from '#core/wording'
import { api, type AttemptView } from '~/api/client'

definePageMeta({ title: 'Message log' })

const session = useSessionStore()
const notices = useNoticeStore()
const directory = useDirectoryStore()
const route = useRoute()
const ask = reactive({
  sender: String(route.query.sender ?? ''),
  recipient: '',
  since: '',
  until: '',
})
const DAY = 24 * 3600_000
const query = () => ({
  sender: ask.sender.trim() || undefined,
  recipient: ask.recipient.trim() || undefined,
  after: ask.since ? new Date(`${ask.since}T00:00`).toISOString() : undefined,
  before: ask.until ? new Date(new Date(`${ask.until}T00:00`).getTime() + DAY).toISOString() : undefined,
})
const error = ref('')
const found = ref<AttemptView[] | null>(null)
const next = ref<number | null>(null)
const span = ref('')
let asked = 0
/** Asks; of two questions the later is answered. @param earlier the page after the one that is shown */
async function look(earlier = false) {
  const mine = ++asked
  try {
    const page = await api.attempts({ ...query(), cursor: earlier ? next.value! : undefined })
    if (mine !== asked) return
    error.value = ''
    found.value = earlier ? [...found.value!, ...page.items] : page.items
    next.value = page.next
    span.value = `between ${instantWords(page.after)} and ${instantWords(page.before)}`
  }
  catch (e) {
    if (mine === asked) error.value = e instanceof Error ? e.message : String(e)
  }
}
onMounted(() => look())

async function copyText(audience: Audience) {
  try {
    await navigator.clipboard.writeText(await api.attemptsText({ ...query(), audience }))
    notices.say(audience === 'sender'
      ? 'Copied as plain text, without rule names and words that were found.'
      : 'Copied as plain text. For internal use only: it has rule names and words that were found.')
  }
  catch (e) {
    notices.failed(e)
  }
}
const textLink = computed(() => {
  const params = new URLSearchParams(Object.entries(query()).flatMap(([k, v]) => (v ? [[k, v]] : [])))
  return `/api/attempts?${params}&as=text&limit=200`
})
</script>

<template>
  <div class="page">
    <div>
      <h1>Message log</h1>
      <p class="second">
        All messages offered by SMTP, accepted or not, with the reply to the sending server. A message that is not listed here never
        arrived.
      </p>
    </div>
    <form
      class="ask"
      @submit.prevent="look()"
    >
      <label>From <el-input
        v-model="ask.sender"
        class="line-field"
        placeholder="address or part of it"
        style="width: 230px"
        spellcheck="false"
      /></label>
      <label>To <el-input
        v-model="ask.recipient"
        class="line-field"
        :placeholder="session.can('read all mail') ? 'all users' : 'all my addresses'"
        style="width: 230px"
        spellcheck="false"
      /></label>
      <span>Since</span> <DayOnLine
        v-model="ask.since"
        label="Since"
        placeholder="30 days ago"
      />
      <span>Until</span> <DayOnLine
        v-model="ask.until"
        label="Until"
        placeholder="now"
      />
      <PressButton
        first
        type="submit"
      >
        Search
      </PressButton>
    </form>
    <p
      v-if="error"
      class="wrong"
      role="alert"
    >
      {{ error }}
    </p>
    <template v-if="found">
      <div
        v-if="!found.length"
        class="sheet none"
      >
        <h2>It never arrived here</h2>
        <p>
          {{ capitalised(span) }} no server offered such a message, so it was neither refused nor discarded here.
        </p>
        <p class="second">
          Check the spelling of both addresses, or search more days. The sender can ask the administrator of their mail server where it is.
        </p>
      </div>
      <p
        v-if="found.length"
        class="second small"
      >
        {{ counted(found.length, 'message') }}{{ next ? ' and more' : '' }}, {{ span }}
      </p>
      <ul v-if="found.length">
        <li
          v-for="a in found"
          :key="a.id"
          class="sheet"
        >
          <p class="top">
            <span class="numbers second">{{ instantWords(a.at) }}</span>
            <LaneIcon
              v-if="a.copy && !a.repeat && a.replyCode < 400"
              :lane="a.copy.lane"
              :name="a.copy.gone ?? undefined"
            />
            <LaneIcon
              v-else-if="a.replyCode >= 500"
              lane="refused"
            />
            <strong>{{ a.subject ?? 'no message received' }}</strong>
          </p>
          <p class="small">
            from <span class="mono">{{ a.mailFrom || 'the null sender' }}</span><template v-if="a.from && a.from !== a.mailFrom">
              (From: <span class="mono">{{ a.from }}</span>)
            </template>
            to <span class="mono">{{ a.rcptTo ?? 'no recipient given' }}</span> <span
              v-if="a.client"
              class="second"
            >by <span class="mono">{{ a.client }}</span></span>
          </p>
          <p>{{ capitalised(attemptWords(a, directory.names)) }}.</p>
          <p
            v-if="a.sentence"
            class="second small"
          >
            {{ a.sentence }}
          </p>
          <p
            v-for="step in a.onward"
            :key="step.at"
            class="second small"
          >
            {{ instantWords(step.at) }}: {{ step.words }}
          </p>
        </li>
      </ul>
      <p class="actions">
        <PressButton @click="copyText('sender')">
          Copy for the sender
        </PressButton>
        <PressButton
          plain
          @click="copyText('internal')"
        >
          Copy with reasons
        </PressButton>
        <a
          :href="textLink"
          download="attempts.txt"
        >Save as file</a>
        <PressButton
          v-if="next"
          plain
          @click="look(true)"
        >
          Show earlier messages
        </PressButton>
      </p>
    </template>
  </div>
</template>

<style scoped>
.ask { display: flex; flex-wrap: wrap; gap: 8px; align-items: center; }
.ask label { display: flex; gap: 8px; align-items: center; }
ul { list-style: none; margin: 0; padding: 0; display: grid; gap: 8px; }
li { padding: 10px 16px; display: grid; gap: 3px; }
.top { display: flex; flex-wrap: wrap; gap: 4px 16px; align-items: baseline; }
.none { padding: 22px; display: grid; gap: 8px; }
</style>
