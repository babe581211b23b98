<script setup lang="ts">
import { attemptWords } from '#core/words'
import { api, type AttemptView } from '~/api/client'

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
    span.value = `between ${longDateTime(page.after)} and ${longDateTime(page.before)}`
  }
  catch (e) {
    if (mine === asked) error.value = e instanceof Error ? e.message : String(e)
  }
}
onMounted(() => look())

async function copyText() {
  try {
    await navigator.clipboard.writeText(await api.attemptsText(query()))
    notices.say('The answer is copied as plain text, to pass on.')
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
      <h1>What was tried at the door</h1>
      <p class="second">
        “I sent it, and you never got it”: every try to hand over a message, with what the sending server was told. What is not
        here never came here.
      </p>
    </div>
    <form
      class="ask"
      @submit.prevent="look()"
    >
      <label>from <el-input
        v-model="ask.sender"
        class="line-field"
        placeholder="an address, or a part of one"
        style="width: 230px"
        spellcheck="false"
      /></label>
      <label>to <el-input
        v-model="ask.recipient"
        class="line-field"
        :placeholder="session.can('read all mail') ? 'anybody here' : 'me, at any of my addresses'"
        style="width: 230px"
        spellcheck="false"
      /></label>
      <span>since</span> <DayOnLine
        v-model="ask.since"
        label="Since"
        placeholder="30 days ago"
      />
      <span>until</span> <DayOnLine
        v-model="ask.until"
        label="Until"
        placeholder="now"
      />
      <PressButton
        first
        type="submit"
      >
        Look
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
        <h2>It never came here</h2>
        <p>
          {{ span.charAt(0).toUpperCase() + span.slice(1) }} no server tried to hand over such a message, so nothing here refused,
          dropped or hid it.
        </p>
        <p class="second">
          Check the spelling of both addresses, or take in more days. Whoever sent it may ask their own server where it is.
        </p>
      </div>
      <p
        v-if="found.length"
        class="second small"
      >
        {{ found.length === 1 ? 'One try' : `${found.length.toLocaleString('en')} tries` }}{{ next ? ' and more' : '' }}, {{ span }}
      </p>
      <ul v-if="found.length">
        <li
          v-for="a in found"
          :key="a.id"
          class="sheet"
        >
          <p class="top">
            <span class="numbers second">{{ longDateTime(a.at) }}</span>
            <LaneIcon
              v-if="a.copy && !a.repeat && a.replyCode < 400"
              :lane="a.copy.lane"
              :name="a.copy.gone ?? undefined"
            />
            <LaneIcon
              v-else-if="a.replyCode >= 500"
              lane="refused"
            />
            <strong>{{ a.subject ?? 'no message came' }}</strong>
          </p>
          <p class="small">
            from <span class="mono">{{ a.mailFrom || 'the null sender' }}</span><template v-if="a.from && a.from !== a.mailFrom">
              (From: <span class="mono">{{ a.from }}</span>)
            </template>
            to <span class="mono">{{ a.rcptTo ?? 'nobody yet' }}</span> <span
              v-if="a.client"
              class="second"
            >by <span class="mono">{{ a.client }}</span></span>
          </p>
          <p>{{ attemptWords(a, directory.names) }}.</p>
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
            {{ longDateTime(step.at) }}: {{ step.words }}
          </p>
        </li>
      </ul>
      <p class="actions">
        <PressButton @click="copyText">
          Copy as plain text
        </PressButton>
        <a
          :href="textLink"
          download="attempts.txt"
        >Save as a file</a>
        <PressButton
          v-if="next"
          plain
          @click="look(true)"
        >
          Earlier ones
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
