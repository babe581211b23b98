<script setup lang="ts">
import isSame from 'fast-deep-equal'
import { MOVES, useMailActs } from '~/composables/mailActions'
import { queryOf, useMailShown } from '~/composables/mailShown'

const mail = useMailStore()
const session = useSessionStore()
const { shown, isNarrowed, widen } = useMailShown()
const tab = ref<'text' | 'reasons' | 'source'>('text')
const acts = useMailActs()
const sketch = useSketchStore()
const notices = useNoticeStore()
const reader = useTemplateRef<{ mend(): boolean }>('reader')

watch(
  shown,
  (now, before) => {
    if (!isSame(now, before)) void mail.show(queryOf(now))
  },
  { immediate: true },
)

// A link to one message: it is opened once, among those that the link shows, and its mends are looked for where it asks for them.
const route = useRoute()
const router = useRouter()
const asked = ref<{ id: number, mend: boolean } | null>(null)
watch(
  [() => route.query.open, () => mail.state],
  ([open, state]) => {
    if (typeof open !== 'string' || !/^\d{1,15}$/.test(open) || state !== 'ready') return
    const { open: _, mend, ...without } = route.query
    asked.value = { id: Number(open), mend: mend !== undefined }
    mail.openCopy(Number(open))
    void router.replace({ query: without })
  },
)
watch(
  [() => mail.open?.id, asked],
  ([id]) => {
    if (id === undefined || !asked.value) return
    const mending = asked.value.mend && asked.value.id === id
    asked.value = null
    if (mending) mendThis()
  },
  { flush: 'post' },
)

// Opening is no act, but what is opened has to be seen first: without a ring the key draws it.
function openHere() {
  const row = mail.items[mail.cursor]
  if (row && mail.ringed) mail.openCopy(row.id)
  else mail.step(0)
}
function chooseHere() {
  const row = mail.items[mail.cursor]
  if (row && (mail.ringed || mail.opened)) mail.toggle(row.id)
  else mail.step(0)
}
function stepChoosing(by: number) {
  const to = mail.items[Math.max(0, Math.min(mail.items.length - 1, mail.cursor + by))]
  if (to) mail.chooseTo(to.id)
}
function mendThis() {
  if (!mail.opened || mail.chosenCount) notices.say('Open the message that went wrong first.')
  else if (!reader.value?.mend()) notices.say('Judge it first (W or U): a mend is for what lies where it should not.')
}
/** From what is meant; several are read by what they have in common. */
function sketchThis() {
  if (mail.all) return sketchShown([...mail.chosen])
  if (!mail.meant.length) return acts.sayNothingMeant()
  sketch.from({ ids: mail.meant.map(c => c.id), lines: [...mail.meant] })
}
function sketchShown(except: number[] = []) {
  const { limit: _, cursor: __, ...query } = mail.filter
  sketch.from({ query: { ...query, ...(except.length ? { except } : {}) } }, shown.value.words)
}
useKeys({
  'ArrowDown': () => mail.step(1),
  'ArrowUp': () => mail.step(-1),
  'shift+ArrowDown': () => stepChoosing(1),
  'shift+ArrowUp': () => stepChoosing(-1),
  'PageDown': () => mail.step(15),
  'PageUp': () => mail.step(-15),
  'Home': () => mail.step(-mail.items.length),
  'ctrl+a': () => mail.chooseAll(),
  'Enter': openHere,
  ' ': chooseHere,
  'Escape': () => (mail.chosenCount ? mail.unchoose() : mail.close()),
  'w': () => acts.judge('wanted'),
  'u': () => acts.judge('unwanted'),
  'y': () => {
    tab.value = 'reasons'
    if (!mail.opened && !mail.chosenCount) openHere()
  },
  'm': mendThis,
  'r': sketchThis,
  ...Object.fromEntries(MOVES.map(m => [m.key, () => acts.move(m.lane)])),
  // While something is sketched, keys are about the sketch: what it is from stays what it is.
}, () => !sketch.about)
// On a narrow screen the reader stands below the ledger: what is opened comes into view.
const side = ref<HTMLElement | null>(null)
watch(
  // Once more when all of it is there: before that there is little to come into view.
  [() => mail.opened?.id, () => mail.open?.id],
  ([id]) => {
    if (id !== undefined && window.matchMedia('(max-width: 980px)').matches) side.value?.scrollIntoView({ block: 'start' })
  },
  { flush: 'post' },
)
onUnmounted(() => {
  sketch.close()
  mail.close()
  mail.unchoose()
})
</script>

<template>
  <div class="mail">
    <MailShowing @sketch="sketchShown()" />
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
      <MailLedger :with-reader="session.may('see held mail') && !shown.who">
        <template #nothing>
          <NoMail
            :narrowed="isNarrowed"
            @widen="widen"
          />
        </template>
      </MailLedger>
      <aside
        ref="side"
        class="sheet side"
      >
        <SketchPanel v-if="sketch.about" />
        <ChosenMail
          v-else-if="mail.chosenCount"
          @sketch="sketchThis"
        />
        <MailReader
          v-else-if="mail.opened"
          ref="reader"
          v-model:tab="tab"
          :line="mail.opened"
          :copy="mail.open"
          @sketch="sketchThis"
          @mended="mail.reload()"
        />
        <div
          v-else
          class="closed second"
        >
          <p v-if="mail.ended">
            That was the last one here.
          </p>
          <p v-else>
            Open a message to read it, and why it is where it is.
          </p>
          <p class="small">
            <kbd>↑</kbd> <kbd>↓</kbd> move, <kbd>Enter</kbd> opens, <kbd>Space</kbd> chooses, <kbd>?</kbd> helps.
          </p>
          <p class="small">
            Somebody says they wrote, and nothing is here? <NuxtLink to="/mail/tried">
              See what was tried at the door
            </NuxtLink>
          </p>
        </div>
        <MailActs
          v-if="!sketch.about"
          :acts
        />
      </aside>
    </div>
  </div>
</template>

<style scoped>
.mail { flex: 1; display: flex; flex-direction: column; min-height: 480px; }
.two { flex: 1; display: grid; grid-template-columns: minmax(0, 1fr) 414px; gap: 18px; min-height: 0; }
.side { display: flex; flex-direction: column; min-height: 0; }
.closed { padding: 40px 24px; display: grid; gap: 10px; flex: 1; align-content: start; }
.failed { padding: 30px; display: grid; gap: 10px; justify-items: start; }
@media (max-width: 980px) {
  .mail { flex: none; }
  .two { grid-template-columns: minmax(0, 1fr); }
  .two :deep(.ledger) { height: 60vh; }
}
</style>
