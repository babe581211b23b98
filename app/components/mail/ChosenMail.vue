<script setup lang="ts">
import { MAX_FIXED } from '#core/limits'
import { counted, numberWords } from '#core/wording'
import { wentWrong } from '~/composables/fixes'

/** What is chosen, in place of what is read: whatever is done now is done to these. */
const mail = useMailStore()
const MAX = 12
const shown = computed(() => mail.meant.slice(0, MAX))
const more = computed(() => mail.chosenCount - shown.value.length)
const howMany = computed(() =>
  mail.all && mail.count?.more
    ? `More than ${numberWords(mail.count.total)}`
    : numberWords(mail.chosenCount),
)
const senders = computed(() => new Set(mail.meant.map(c => c.sender)).size)
/** Where all that is selected went wrong in the same way, it can be fixed together. */
const fixed = computed(() => {
  const { meant } = mail
  const isLoaded = meant.length === mail.chosenCount && meant.length <= MAX_FIXED
  const isOneWay = meant.every(wentWrong) && new Set(meant.map(c => c.judgement)).size === 1
  return isLoaded && isOneWay ? meant.map(c => c.id) : []
})
const fixes = useTemplateRef<{ look(): unknown }>('fixes')
/** Looks for fixes of what is selected. @returns false where none can be suggested */
function fix(): boolean {
  void fixes.value?.look()
  return fixes.value !== null
}
defineExpose({ fix })
const lanes = computed(() => [...Map.groupBy(mail.meant, c => c.lane)].map(([lane, own]) => ({ lane, n: own.length })))
</script>

<template>
  <section
    class="chosen"
    aria-label="Selected messages"
  >
    <h2>{{ howMany }} selected</h2>
    <p
      v-if="mail.all"
      class="second small"
    >
      All messages that match the filter, including those that are not loaded{{ mail.chosen.size ? `, except ${mail.chosen.size}` : '' }}.
    </p>
    <p
      v-else
      class="second small"
    >
      from {{ counted(senders, 'sender') }}
    </p>
    <p
      v-if="!mail.all"
      class="small lanes"
    >
      <span
        v-for="l in lanes"
        :key="l.lane"
      ><LaneIcon :lane="l.lane" /> <span class="numbers">{{ l.n }}</span></span>
    </p>
    <p class="actions">
      <PressButton
        plain
        @click="mail.unchoose()"
      >
        Clear selection <kbd>Esc</kbd>
      </PressButton>
      <PressButton
        v-if="!mail.all && mail.count && mail.chosen.size < mail.count.total"
        plain
        @click="mail.chooseAll()"
      >
        Select all {{ mail.count.more ? '' : numberWords(mail.count.total) }} <kbd>Ctrl A</kbd>
      </PressButton>
    </p>
    <FixList
      v-if="fixed.length"
      ref="fixes"
      :ids="fixed"
      :doubted="mail.meant.some(c => c.doubted)"
      @fixed="mail.reload()"
    />
    <ul>
      <li
        v-for="c in shown"
        :key="c.id"
      >
        <span>{{ c.senderName || c.sender || 'no sender' }}</span> <span class="second">{{ c.subject || 'no subject' }}</span>
      </li>
    </ul>
    <p
      v-if="more > 0"
      class="second small"
    >
      and {{ numberWords(more) }} more
    </p>
  </section>
</template>

<style scoped>
.chosen { flex: 1; min-height: 0; overflow-y: auto; padding: 16px 20px; display: grid; gap: 8px; align-content: start; }
.lanes { display: flex; flex-wrap: wrap; gap: 4px 16px; }
.actions { margin-left: -5px; }
ul { list-style: none; margin: 0; padding: 0; font-size: 14px; }
li { padding: 5px 0; border-bottom: 1px solid var(--hairline); overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
</style>
