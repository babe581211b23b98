<script setup lang="ts">
import { MOVES, useMailActionList } from '~/composables/mailActions'

/** What is open or selected beside a list of messages, what can be done with it, and the keys for that. */
const emit = defineEmits<{ /** A message is to be opened: the row where one stands. */ open: [] }>()
const mail = useMailStore()
const suggestion = useSuggestionStore()
const notices = useNoticeStore()
const actions = useMailActionList()
const tab = ref<'text' | 'reasons' | 'source'>('text')
const reader = useTemplateRef<{ fix(): boolean }>('reader')
const chosen = useTemplateRef<{ fix(): boolean }>('chosen')

function fixThis() {
  if (mail.chosenCount) {
    if (!chosen.value?.fix())
      notices.say('Mark the selected messages wanted (W) or unwanted (U) first, up to 200 at a time; then fixes can be suggested.')
  }
  else if (!mail.opened) notices.say('Open a message first.')
  else if (!reader.value?.fix()) notices.say('Mark it wanted (W) or unwanted (U) first; then fixes can be suggested.')
}
/** From what is meant; several are read by what they have in common. */
function suggest(asRule: boolean) {
  if (mail.all) {
    const { limit: _, cursor: __, ...query } = mail.filter
    return suggestion.from({ query: { ...query, except: [...mail.chosen] } }, { asRule })
  }
  if (!mail.meant.length) return actions.sayNothingMeant()
  suggestion.from({ ids: mail.meant.map(c => c.id), lines: [...mail.meant] }, { asRule })
}
useKeys({
  w: () => actions.mark('wanted'),
  u: () => actions.mark('unwanted'),
  y: () => {
    tab.value = 'reasons'
    if (!mail.opened && !mail.chosenCount) emit('open')
  },
  m: fixThis,
  b: () => suggest(false),
  r: () => suggest(true),
  Escape: () => (mail.chosenCount ? mail.unchoose() : mail.close()),
  ...Object.fromEntries(MOVES.map(m => [m.key, () => actions.move(m.lane)])),
  // While something is suggested, keys are about the suggestion: what it is from stays what it is.
}, () => !suggestion.about)
defineExpose({ fix: fixThis })

// On a narrow screen the message is below the list of messages: what is opened comes into view.
const side = useTemplateRef<HTMLElement>('side')
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
  <aside
    ref="side"
    class="sheet side"
  >
    <SuggestPanel v-if="suggestion.about" />
    <ChosenMail
      v-else-if="mail.chosenCount"
      ref="chosen"
    />
    <MailReader
      v-else-if="mail.opened"
      ref="reader"
      v-model:tab="tab"
      :line="mail.opened"
      :copy="mail.open"
      @fixed="mail.reload()"
    />
    <div
      v-else
      class="closed"
    >
      <slot />
    </div>
    <MailActions
      v-if="!suggestion.about"
      :actions
      @sender="suggest(false)"
      @rule="suggest(true)"
    />
  </aside>
</template>

<style scoped>
.side { display: flex; flex-direction: column; min-height: 0; }
.closed { flex: 1; overflow-y: auto; min-height: 0; }
</style>
