<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import isSame from 'fast-deep-equal'
import type { Audience } from '#core/words'
import { capitalised, counted, instantWords } from '#core/wording'
import { api } from '~/api/client'

definePageMeta({ title: 'Message log' })

const session = useSessionStore()
const notices = useNoticeStore()
const log = useMessageLogStore()
const mail = useMailStore()
const suggestion = useSuggestionStore()
const route = useRoute()
const router = useRouter()

const KEYS = ['words', 'sender', 'recipient', 'since', 'until'] as const
const shown = computed(() =>
  Object.fromEntries(KEYS.map(key => [key, typeof route.query[key] === 'string' ? route.query[key] : ''])) as Record<(typeof KEYS)[number], string>)
const fields = reactive({ ...shown.value })
watch(shown, now => Object.assign(fields, now))
function narrow() {
  const said = Object.fromEntries(KEYS.map(key => [key, fields[key].trim()]).filter(([, value]) => value))
  void router.replace({ query: said })
}
const soon = useDebounceFn(narrow, 250)
const query = computed(() => {
  const { since, until, ...said } = shown.value
  return { ...said, ...daysAsked(since, until) }
})
watch(query, (now, before) => {
  if (!isSame(now, before)) void log.show(now)
}, { immediate: true })
// What was done with the message that is open shows in its row.
watch(() => mail.open?.version, (now, before) => {
  if (before !== undefined && now !== before) void log.reload()
})
afterUndo(log.reload)

const span = computed(() => (log.span ? `between ${instantWords(log.span.after)} and ${instantWords(log.span.before)}` : ''))
const countWords = computed(() =>
  log.state === 'loading' ? 'counting…' : `${counted(log.items.length, 'message')}${log.next === null ? '' : ' and more'}`)

async function copyText(audience: Audience) {
  try {
    await navigator.clipboard.writeText(await api.attemptsText({ ...query.value, audience }))
    notices.say(audience === 'sender'
      ? 'Copied as plain text, without rule names and words that were found.'
      : 'Copied as plain text. For internal use only: it has rule names and words that were found.')
  }
  catch (e) {
    notices.failed(e)
  }
}
const textLink = computed(() => {
  const params = new URLSearchParams(Object.entries(query.value).flatMap(([k, v]) => (v ? [[k, v]] : [])))
  return `/api/attempts?${params}&as=text&limit=200`
})
function openHere() {
  const row = log.items[log.cursor]
  if (row) log.open(row)
  else log.step(0)
}
useKeys({
  ArrowDown: () => log.step(1),
  ArrowUp: () => log.step(-1),
  PageDown: () => log.step(15),
  PageUp: () => log.step(-15),
  Home: () => log.step(-log.items.length),
  Enter: openHere,
}, () => !suggestion.about)
onUnmounted(() => log.close())
</script>

<template>
  <div class="mail-view">
    <h1 class="visually-hidden">
      Message log
    </h1>
    <MailTabs>
      <span
        class="count second small"
        role="status"
        aria-label="Number of messages shown"
      >{{ countWords }}</span>
    </MailTabs>
    <form
      class="showing"
      @submit.prevent="narrow"
    >
      <el-input
        v-model="fields.sender"
        class="line-field address"
        placeholder="from: address or part"
        aria-label="From"
        clearable
        spellcheck="false"
        @input="soon"
      />
      <el-input
        v-model="fields.recipient"
        class="line-field address"
        :placeholder="session.can('read all mail') ? 'to: all users' : 'to: all my addresses'"
        aria-label="To"
        clearable
        spellcheck="false"
        @input="soon"
      />
      <DayRange
        v-model:since="fields.since"
        v-model:until="fields.until"
        beginning="30 days ago"
        @update:since="narrow"
        @update:until="narrow"
      />
      <el-input
        v-model="fields.words"
        class="line-field words"
        placeholder="address or subject"
        aria-label="Search"
        clearable
        @input="soon"
      />
    </form>
    <div
      v-if="log.state === 'failed'"
      class="sheet failed"
      role="alert"
    >
      <h2>The message log cannot be loaded</h2>
      <p>{{ log.failure }}</p>
      <PressButton @click="log.reload()">
        Try again
      </PressButton>
    </div>
    <div
      v-else
      class="two"
    >
      <LogLedger>
        <template #nothing>
          <h2>It never arrived here</h2>
          <p>
            {{ capitalised(span) }} no server offered such a message, so it was neither refused nor discarded here.
          </p>
          <p class="second">
            Check the spelling of both addresses, or search more days. The sender can ask the administrator of their mail server where
            it is.
          </p>
        </template>
      </LogLedger>
      <MailSide @open="openHere">
        <AttemptDetail
          v-if="log.opened && log.opened.copyId === null"
          :attempt="log.opened"
        />
        <p
          v-else-if="log.opened"
          class="closed second"
        >
          Loading…
        </p>
        <div
          v-else
          class="closed second"
        >
          <p>
            Every message offered by SMTP, accepted or not, with the reply to the sending server. A message that is not listed here never
            arrived.
          </p>
          <p class="small">
            {{ capitalised(span) }}
          </p>
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
          </p>
        </div>
      </MailSide>
    </div>
  </div>
</template>

<style scoped>
.address { width: 220px; }
.words { width: 180px; flex: 1; max-width: 300px; min-width: 180px; }
.count { margin-left: auto; white-space: nowrap; }
.closed { padding: 40px 24px; display: grid; gap: 12px; align-content: start; }
</style>
