<script setup lang="ts">
import { withVisibleControls } from '#core/words'
import { api } from '~/api/client'

const { canDecide } = defineProps<{ canDecide: boolean }>()
const emit = defineEmits<{ reject: [] }>()
const rejecting = defineModel<boolean>('rejecting', { required: true })
const review = useReviewStore()
const notices = useNoticeStore()
const lit = ref<string | null>(null)
const reason = ref('')
const note = ref('')
const field = useTemplateRef<HTMLElement>('field')

const line = computed(() => review.shown)
const copy = computed(() => (review.copy?.id === line.value?.id ? review.copy : null))
const verdict = computed(() => VERDICTS[copy.value?.facts.attempt.authentication.verdict ?? 'none'])
const position = computed(() => `${review.at + 1} of ${review.howMany.toLocaleString('en')}`)
const why = computed(() => {
  const said = line.value?.why.join('; ') ?? ''
  return line.value?.likely ? `likely a mistake: ${said}` : said
})
const lies = computed(() => {
  if (!line.value) return ''
  const { lane } = line.value
  const verb = lane === 'quarantine' ? 'held' : lane === 'spam' ? 'in spam' : lane === 'lowPriority' ? 'in low priority' : 'in the bin'
  const leaves = line.value.leaves ? `, until ${shortWhen(line.value.leaves)}` : ''
  const marked = line.value.judgementStrength === 'said' ? `, judged ${line.value.judgement}` : ''
  return `${verb} since ${longDateTime(line.value.since)}${leaves}${marked}`
})
const asksWith = computed(() => (line.value?.asked?.note ? `: “${line.value.asked.note}”` : ''))
const wholeWords = computed(() => {
  const { whole, items, howMany } = review
  return whole ? `All ${items.length} are meant` : `All ${howMany}`
})
const isHeld = computed(() => review.place.lane === 'quarantine')
const WORDS = {
  wanted: computed(() => (isHeld.value ? 'Release, wanted' : review.place.lane === 'bin' ? 'Restore, wanted' : 'To the inbox, wanted')),
  unwanted: computed(() => (isHeld.value ? 'Reject, unwanted' : review.place.lane === 'lowPriority' ? 'To spam, unwanted' : 'Unwanted')),
}
watch(rejecting, async (is) => {
  reason.value = ''
  if (!is) return
  await nextTick()
  field.value?.querySelector('input')?.focus()
})
watch(() => line.value?.id, () => (note.value = ''))

async function sayNo() {
  if (!reason.value.trim()) return
  const why = reason.value.trim()
  rejecting.value = false
  await review.settle('unwanted', why)
}
/** It stays held, and whoever asked reads why. */
async function decline() {
  const { asked } = line.value ?? {}
  if (!asked || !reason.value.trim()) return
  try {
    const { eventId } = await api.answerRequest(asked.id, { release: false, reason: reason.value.trim() })
    rejecting.value = false
    notices.say(`${asked.by} reads why it is not given. It stays held.`, eventId)
    await review.load()
  }
  catch (error) {
    notices.failed(error)
  }
}
async function ask() {
  if (!line.value) return
  try {
    const { eventId, asked } = await api.requestRelease([line.value.id], note.value.trim())
    notices.say(asked ? 'Asked for. Whoever reviews it sees that first, and the answer comes here.' : 'You have asked for it already.', eventId)
    await review.load()
  }
  catch (error) {
    notices.failed(error)
  }
}
</script>

<template>
  <article
    class="copy"
    aria-label="The message"
    :aria-busy="line !== null && !copy"
  >
    <template v-if="line">
      <header>
        <p class="second small">
          {{ position }}<template v-if="why">
            · <span :class="{ warn: line.likely }">{{ why }}</span>
          </template>
        </p>
        <h1>{{ line.subject || 'no subject' }}</h1>
        <p>
          <span v-if="line.senderName">{{ line.senderName }}&ensp;</span><span
            class="mono second address"
          >{{ line.sender || 'no sender' }}</span>
        </p>
        <p class="second small">
          to {{ line.recipientName }} · {{ lies }}<template v-if="copy">
            · <WordHelp
              :word="verdict"
              :help="WORD_HELPS.verified"
            />
          </template>
        </p>
        <p
          v-if="line.asked"
          class="asked small"
        >
          <strong>{{ line.asked.mine ? 'You ask for it' : `${line.asked.by} asks for it` }}</strong>{{ asksWith }}
        </p>
      </header>
      <div
        class="reading"
        tabindex="0"
        role="group"
        aria-label="Its text"
      >
        <p
          v-if="!copy"
          class="second"
        >
          Reading …
        </p>
        <template v-else>
          <MessageText
            :attachments="copy.facts.attachments"
            :headers="copy.facts.headers"
            :segments="copy.facts.segments"
            :reasons="copy.reasons"
            :lit
          />
          <p
            v-for="(a, i) in copy.facts.attachments"
            :key="i"
            class="mono small second attachment"
          >
            {{ withVisibleControls(a.name) || 'without a name' }} · {{ a.detectedType ?? a.declaredType }}
          </p>
        </template>
      </div>
      <footer>
        <div
          v-if="rejecting"
          ref="field"
          class="saying"
        >
          <TextField
            v-model="reason"
            label="Why not"
            placeholder="why not: whoever asked reads it"
            :width="280"
            @keydown.enter.prevent="sayNo"
            @keydown.esc="rejecting = false"
          />
          <PressButton
            first
            :disabled="!reason.trim()"
            @click="sayNo"
          >
            Reject with this
          </PressButton>
          <PressButton
            :disabled="!reason.trim() || review.meant.length > 1"
            @click="decline"
          >
            Say no, keep it held
          </PressButton>
          <PressButton
            plain
            @click="rejecting = false"
          >
            Leave it
          </PressButton>
        </div>
        <div
          v-else-if="line.canRelease"
          class="actions"
        >
          <PressButton
            :disabled="!canDecide"
            @click="review.settle('wanted')"
          >
            {{ WORDS.wanted.value }} <kbd>W</kbd>
          </PressButton>
          <PressButton
            v-if="!review.here?.own"
            :disabled="!canDecide"
            @click="emit('reject')"
          >
            {{ WORDS.unwanted.value }} <kbd>U</kbd>
          </PressButton>
          <PressButton
            plain
            @click="review.step(1)"
          >
            Later <kbd>→</kbd>
          </PressButton>
          <PressButton
            v-if="review.items.length > 1"
            plain
            class="whole"
            :aria-pressed="review.whole"
            @click="review.chooseWhole()"
          >
            {{ wholeWords }} <kbd>Space</kbd>
          </PressButton>
        </div>
        <div
          v-else
          class="saying"
        >
          <template v-if="line.asked">
            <p class="small">
              You have asked for it. The answer comes here.
            </p>
          </template>
          <template v-else-if="line.canRequest">
            <TextField
              v-model="note"
              label="A word to whoever reviews it"
              placeholder="a word to whoever reviews it"
              :width="280"
              @keydown.enter.prevent="ask"
            />
            <PressButton
              first
              @click="ask"
            >
              Ask for it
            </PressButton>
          </template>
          <p
            v-else
            class="small second"
          >
            A reviewer or an administrator lets it out; it cannot be asked for here.
          </p>
          <PressButton
            plain
            @click="review.step(1)"
          >
            Later <kbd>→</kbd>
          </PressButton>
        </div>
      </footer>
    </template>
    <div
      v-else
      class="nothing second"
    >
      <h2>{{ review.state === 'reading' ? 'Reading …' : 'Nothing waits here' }}</h2>
      <p v-if="review.state !== 'reading'">
        Everything here has been looked at. Choose another place on the left, or go on in <NuxtLink to="/mail">
          Mail
        </NuxtLink>.
      </p>
    </div>
  </article>
</template>

<style scoped>
.copy { display: flex; flex-direction: column; min-height: 0; }
header { padding: 18px 24px 14px; display: grid; gap: 5px; border-bottom: 1px solid var(--hairline); }
h1 { overflow-wrap: anywhere; }
.address { overflow-wrap: anywhere; }
.asked { border-left: 3px solid var(--warn); padding: 3px 10px; margin-top: 4px; }
.reading { flex: 1; overflow-y: auto; padding: 20px 24px; min-height: 140px; font-size: 16px; line-height: 1.6; }
.reading:focus-visible { outline-offset: -2px; }
.attachment { margin-top: 14px; border-top: 1px solid var(--hairline); padding-top: 10px; }
footer { border-top: 1px solid var(--hairline); padding: 12px 18px; }
footer .actions { gap: 6px; }
.saying { display: flex; flex-wrap: wrap; gap: 8px; align-items: center; }
.whole { margin-left: auto; }
.nothing { padding: 60px 40px; display: grid; gap: 10px; }
</style>
