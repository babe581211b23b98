<script setup lang="ts">
import isSame from 'fast-deep-equal'
import { queryOf, useMailShown } from '~/composables/mailShown'

definePageMeta({ title: 'Mail' })

const mail = useMailStore()
const session = useSessionStore()
const suggestion = useSuggestionStore()
const { shown, isNarrowed, widen } = useMailShown()
const side = useTemplateRef<{ fix(): void }>('side')

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
    if (fixing) side.value?.fix()
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
/** From all that is shown. */
function suggestShown() {
  const { limit: _, cursor: __, ...query } = mail.filter
  suggestion.from({ query }, { asRule: true })
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
  // While something is suggested, keys are about the suggestion: what it is from stays what it is.
}, () => !suggestion.about)
</script>

<template>
  <div class="mail-view">
    <h1 class="visually-hidden">
      Mail
    </h1>
    <NewlyStopped />
    <MailShowing @suggestion="suggestShown" />
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
      <MailSide
        ref="side"
        @open="openHere"
      >
        <div class="closed second">
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
            Is a message missing? The message log has every message that was offered, accepted or not.
          </p>
        </div>
      </MailSide>
    </div>
  </div>
</template>

<style scoped>
.closed { padding: 40px 24px; display: grid; gap: 10px; align-content: start; }
</style>
