<script setup lang="ts">
import isSame from 'fast-deep-equal'
import { MOVES, useMailActionList } from '~/composables/mailActions'
import { queryOf, useMailShown } from '~/composables/mailShown'

definePageMeta({ title: 'Mail' })

const mail = useMailStore()
const session = useSessionStore()
const { shown, isNarrowed, widen } = useMailShown()
const tab = ref<'text' | 'reasons' | 'source'>('text')
const actions = useMailActionList()
const suggestion = useSuggestionStore()
const notices = useNoticeStore()
const recipientName = useTemplateRef<{ fix(): boolean }>('reader')

watch(
  shown,
  (now, before) => {
    if (!isSame(now, before)) void mail.show(queryOf(now))
  },
  { immediate: true },
)

// A link to one message: it is opened once, among those that the link shows, and its fixes are looked for where it asks for them.
const route = useRoute()
const router = useRouter()
const asked = ref<{ id: number, fix: boolean } | null>(null)
watch(
  [() => route.query.open, () => mail.state],
  ([open, state]) => {
    if (typeof open !== 'string' || !/^\d{1,15}$/.test(open) || state !== 'ready') return
    const { open: _, fix, ...without } = route.query
    asked.value = { id: Number(open), fix: fix !== undefined }
    mail.openCopy(Number(open))
    void router.replace({ query: without })
  },
)
watch(
  [() => mail.open?.id, asked],
  ([id]) => {
    if (id === undefined || !asked.value) return
    const fixing = asked.value.fix && asked.value.id === id
    asked.value = null
    if (fixing) fixThis()
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
function fixThis() {
  if (!mail.opened || mail.chosenCount) notices.say('Open a message first.')
  else if (!recipientName.value?.fix()) notices.say('Mark it wanted (W) or unwanted (U) first; then fixes can be suggested.')
}
/** From what is meant; several are read by what they have in common. */
function suggestThis() {
  if (mail.all) return suggestionShown([...mail.chosen])
  if (!mail.meant.length) return actions.sayNothingMeant()
  suggestion.from({ ids: mail.meant.map(c => c.id), lines: [...mail.meant] })
}
function suggestionShown(except: number[] = []) {
  const { limit: _, cursor: __, ...query } = mail.filter
  suggestion.from({ query: { ...query, ...(except.length ? { except } : {}) } }, shown.value.words)
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
  'w': () => actions.mark('wanted'),
  'u': () => actions.mark('unwanted'),
  'y': () => {
    tab.value = 'reasons'
    if (!mail.opened && !mail.chosenCount) openHere()
  },
  'm': fixThis,
  'r': suggestThis,
  ...Object.fromEntries(MOVES.map(m => [m.key, () => actions.move(m.lane)])),
  // While something is suggested, keys are about the suggestion: what it is from stays what it is.
}, () => !suggestion.about)
// On a narrow screen the message is below the list of messages: what is opened comes into view.
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
  suggestion.close()
  mail.close()
  mail.unchoose()
})
</script>

<template>
  <div class="mail">
    <h1 class="visually-hidden">
      Mail
    </h1>
    <MailShowing @suggestion="suggestionShown()" />
    <div
      v-if="mail.state === 'failed'"
      class="sheet failed"
      role="alert"
    >
      <h2>Messages cannot be loaded</h2>
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
      <MailLedger :with-recipient="session.can('read held mail') && !shown.who">
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
        <SuggestPanel v-if="suggestion.about" />
        <ChosenMail
          v-else-if="mail.chosenCount"
          @suggestion="suggestThis"
        />
        <MailReader
          v-else-if="mail.opened"
          ref="reader"
          v-model:tab="tab"
          :line="mail.opened"
          :copy="mail.open"
          @suggestion="suggestThis"
          @fixed="mail.reload()"
        />
        <div
          v-else
          class="closed second"
        >
          <p v-if="mail.ended">
            No more messages.
          </p>
          <p v-else>
            Open a message to read it and to see why it is in its location.
          </p>
          <p class="small">
            <kbd>↑</kbd> <kbd>↓</kbd> move, <kbd>Enter</kbd> opens, <kbd>Space</kbd> selects, <kbd>?</kbd> opens the help.
          </p>
          <p class="small">
            Is a message missing? <NuxtLink to="/mail/log">
              Open message log
            </NuxtLink>
          </p>
        </div>
        <MailActions
          v-if="!suggestion.about"
          :actions
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
