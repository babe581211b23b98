<script setup lang="ts">
import { LANE_NAMES, withVisibleControls } from '#core/words'
import { counted, numberWords } from '#core/wording'
import { api } from '~/api/client'

const emit = defineEmits<{ unwanted: [] }>()
const declining = defineModel<boolean>('declining', { required: true })
const review = useReviewStore()
const notices = useNoticeStore()
const lit = ref<string | null>(null)
const reason = ref('')
const note = ref('')
const field = useTemplateRef<HTMLElement>('field')

const line = computed(() => review.shown)
const copy = computed(() => (review.copy?.id === line.value?.id ? review.copy : null))
const verdict = computed(() => VERDICTS[copy.value?.facts.attempt.authentication.verdict ?? 'none'])
const position = computed(() => `${numberWords(review.at + 1)} of ${numberWords(review.howMany)}`)
const why = computed(() => line.value?.why.join('; ') ?? '')
const lies = computed(() => {
  if (!line.value) return ''
  const { lane } = line.value
  const verb = lane === 'quarantine' ? 'held' : `in ${LANE_NAMES[lane]}`
  const leaves = line.value.leaves ? `, until ${shortWhen(line.value.leaves)}` : ''
  const marked = line.value.judgementStrength === 'said' ? `, marked ${line.value.judgement}` : ''
  return `${verb} since ${longDateTime(line.value.since)}${leaves}${marked}`
})
const asksWith = computed(() => (line.value?.asked?.note ? `: “${line.value.asked.note}”` : ''))
const allWords = computed(() => {
  const { selected, meant, items, howMany, group } = review
  if (selected === 'all') return `${meant.length < items.length ? '' : 'All '}${numberWords(meant.length)} selected`
  const unverified = group?.doubted ? ` (${numberWords(group.doubted)} not verified)` : ''
  return `Select all ${numberWords(howMany)}${unverified}`
})
const doubted = computed(() => (review.selected === 'all' ? review.items.filter(i => i.doubted).length : 0))
const likelyWords = computed(() => {
  const { selected, meant, group } = review
  if (selected === 'likely') return `${counted(meant.length, 'likely mistake')} selected`
  return `Select ${counted(group?.likelyWanted ?? 0, 'likely mistake')}`
})
const isHeld = computed(() => review.place.lane === 'quarantine')
const canDecide = computed(() => line.value !== null && (!isHeld.value || line.value.can.release || line.value.can.decline))
const WORDS = {
  wanted: computed(() => (isHeld.value ? 'Release (wanted)' : 'Move to Inbox (wanted)')),
  unwanted: computed(() => {
    if (isHeld.value) return 'Move to Bin (unwanted)'
    return review.place.lane === 'lowPriority' ? 'Move to Spam (unwanted)' : 'Mark as unwanted'
  }),
}
watch(declining, () => (reason.value = ''))
useFocusOn(field, () => declining.value)
watch(() => line.value?.id, () => (note.value = ''))

async function sayNo() {
  if (!reason.value.trim()) return
  const why = reason.value.trim()
  declining.value = false
  await review.settle('unwanted', why)
}
/** It stays in quarantine, and the recipient reads why. */
async function decline() {
  const { asked } = line.value ?? {}
  if (!asked || !reason.value.trim()) return
  try {
    const { eventId } = await api.answerRequest(asked.id, { release: false, reason: reason.value.trim() })
    declining.value = false
    notices.say(`Request declined. ${asked.by} can read the reason. The message stays in quarantine.`, eventId)
    await review.load()
  }
  catch (error) {
    notices.failed(error)
  }
}
const ask = () => review.request(note.value.trim())
</script>

<template>
  <article
    class="copy"
    aria-label="Message"
    :aria-busy="line !== null && !copy"
  >
    <template v-if="line">
      <header>
        <p class="second small">
          {{ position }}<template v-if="why">
            · <span :class="{ warn: line.likely }"><template v-if="line.likely"><WordHelp
              word="Likely a mistake"
              term="falsePositive"
            />: </template>{{ why }}</span>
          </template>
        </p>
        <h2 class="subject">
          {{ line.subject || 'no subject' }}
        </h2>
        <p>
          <span v-if="line.senderName">{{ line.senderName }}&ensp;</span><span
            class="mono second address"
          >{{ line.sender || 'no sender' }}</span>
        </p>
        <p class="second small">
          to {{ line.recipientName }} · {{ lies }}<template v-if="copy">
            · <WordHelp
              :word="verdict"
              term="verified"
            />
          </template>
        </p>
        <p
          v-if="line.asked"
          class="asked small"
        >
          <strong>{{ line.asked.mine ? 'You requested its release' : `${line.asked.by} requests its release` }}</strong>{{ asksWith }}
        </p>
      </header>
      <div
        class="reading"
        tabindex="0"
        role="group"
        aria-label="Text of the message"
      >
        <p
          v-if="!copy"
          class="second"
        >
          Loading…
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
        <el-checkbox
          v-if="doubted && !declining && !review.question"
          v-model="review.withDoubted"
        >
          Also the {{ counted(doubted, 'message') }} not verified
        </el-checkbox>
        <ForgeryQuestion
          v-if="review.question"
          :question="review.question"
          @leave="review.question = null"
        />
        <div
          v-else-if="declining"
          ref="field"
          class="saying"
        >
          <TextField
            v-model="reason"
            label="Reason"
            placeholder="reason, for the recipient"
            :width="280"
            @keydown.enter.prevent="sayNo"
            @keydown.esc="declining = false"
          />
          <PressButton
            first
            :disabled="!reason.trim()"
            @click="sayNo"
          >
            Move to Bin with this reason
          </PressButton>
          <PressButton
            :disabled="!reason.trim() || review.meant.length > 1"
            @click="decline"
          >
            Keep in quarantine
          </PressButton>
          <PressButton
            plain
            @click="declining = false"
          >
            Cancel
          </PressButton>
        </div>
        <div
          v-else-if="canDecide"
          class="actions"
        >
          <PressButton
            v-if="line.can.move.includes('inbox')"
            :disabled="!review.can.wanted"
            @click="review.settle('wanted')"
          >
            {{ WORDS.wanted.value }} <kbd>W</kbd>
          </PressButton>
          <PressButton
            v-if="!isHeld || line.can.move.includes('bin') || line.can.decline"
            :disabled="!review.can.unwanted"
            @click="emit('unwanted')"
          >
            {{ WORDS.unwanted.value }} <kbd>U</kbd>
          </PressButton>
          <PressButton
            plain
            @click="review.step(1)"
          >
            Skip <kbd>→</kbd>
          </PressButton>
          <PressButton
            v-if="review.items.length > 1"
            plain
            class="whole"
            :aria-pressed="review.selected === 'all'"
            @click="review.select('all')"
          >
            {{ allWords }} <kbd>Space</kbd>
          </PressButton>
          <PressButton
            v-if="review.group?.likelyWanted && review.items.length > 1"
            plain
            :aria-pressed="review.selected === 'likely'"
            @click="review.select('likely')"
          >
            {{ likelyWords }} <kbd>L</kbd>
          </PressButton>
        </div>
        <div
          v-else
          class="saying"
        >
          <template v-if="line.asked">
            <p class="small">
              You requested its release. The answer appears here.
            </p>
          </template>
          <template v-else-if="line.can.requestRelease">
            <TextField
              v-model="note"
              label="Note to the reviewer"
              placeholder="note to the reviewer"
              :width="280"
              @keydown.enter.prevent="ask"
            />
            <PressButton
              first
              @click="ask"
            >
              Request release
            </PressButton>
          </template>
          <p
            v-else
            class="small second"
          >
            Only a reviewer can release this message. Requests are not allowed for this quarantine.
          </p>
          <PressButton
            plain
            @click="review.step(1)"
          >
            Skip <kbd>→</kbd>
          </PressButton>
        </div>
      </footer>
    </template>
    <div
      v-else
      class="nothing second"
    >
      <h2>{{ review.state === 'reading' ? 'Loading…' : 'No messages to review here' }}</h2>
      <p v-if="review.state !== 'reading'">
        Choose another location on the left, or go to <NuxtLink to="/mail">
          Mail
        </NuxtLink>.
      </p>
    </div>
  </article>
</template>

<style scoped>
.copy { display: flex; flex-direction: column; min-height: 0; }
header { padding: 18px 24px 14px; display: grid; gap: 5px; border-bottom: 1px solid var(--hairline); }
.subject { font-size: 22px; overflow-wrap: anywhere; }
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
