<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import { placeOfCopy } from '#core/words'
import { shortSize } from '#core/wording'
import type { CopyView } from '~/api/client'

const { withRecipient } = defineProps<{ /** The mail of several people is shown: whose each is. */ withRecipient: boolean }>()
const mail = useMailStore()
const directory = useDirectoryStore()

const ROW = 36
const scroller = ref<HTMLElement | null>(null)
const virtual = useVirtualizer(
  computed(() => ({
    count: mail.items.length,
    getScrollElement: () => scroller.value,
    estimateSize: () => ROW,
    overscan: 12,
  })),
)
const rows = computed(() => virtual.value.getVirtualItems().flatMap(({ index, start }) => {
  const line = mail.items[index]
  return line ? [{ index, start, line }] : []
}))
const COLUMNS = computed(() => ['Location', ...(withRecipient ? ['Recipient'] : []), 'Sender', 'Subject', 'Mark', 'Reason'])
/** The row that Tab comes to. */
const tabStop = computed(() => Math.max(0, mail.cursor))

watch(
  () => rows.value.at(-1)?.index,
  (last) => {
    if (last !== undefined && last > mail.items.length - 20) void mail.more()
  },
)
// The ring goes where one stands; also when its row was discarded, or drawn anew.
watch(
  [() => mail.at, () => mail.items],
  async () => {
    if (mail.cursor < 0 || !mail.ringed) return
    virtual.value.scrollToIndex(mail.cursor)
    await nextTick()
    const busy = document.activeElement?.closest('input, textarea, [contenteditable], .el-dialog, .el-popper')
    if (!busy) rowElement(mail.cursor)?.focus({ preventScroll: true })
  },
  { flush: 'post' },
)

function rowElement(at: number): HTMLElement | null {
  return scroller.value?.querySelector(`[data-row="${at}"]`) ?? null
}

function press(copy: CopyView, event: MouseEvent) {
  if (event.shiftKey) mail.chooseTo(copy.id)
  else if (event.ctrlKey || event.metaKey) mail.toggle(copy.id)
  else mail.openCopy(copy.id)
}
// Tab came to a row; a press has its own meaning.
function focused(copy: CopyView) {
  if (mail.at !== copy.id) mail.standOn(copy.id)
  else mail.ringed = true
}
// Gone elsewhere in the page: what is no longer seen to be meant is meant no longer.
function left(event: FocusEvent) {
  const to = event.relatedTarget as HTMLElement | null
  if (to && !scroller.value?.contains(to)) mail.ringed = false
}

const senderOf = (c: CopyView) => c.senderName || cutMiddle(c.sender || 'no sender', 24)
const laneName = (c: CopyView) => placeOfCopy(directory.names.quarantines.length > 1 ? c : { ...c, quarantine: null }, directory.names)
const folderName = (c: CopyView) => (c.folder ? `folder “${c.folder}”` : '')
</script>

<template>
  <div
    class="ledger sheet"
    :class="{ recipients: withRecipient }"
    role="grid"
    aria-label="Messages"
    aria-multiselectable="true"
    :aria-rowcount="mail.count && !mail.count.more ? mail.count.total + 1 : -1"
    :aria-busy="mail.state === 'loading'"
  >
    <div role="rowgroup">
      <div
        role="row"
        class="row head second small"
      >
        <span
          v-for="name in COLUMNS"
          :key="name"
          role="columnheader"
        ><WordHelp
          v-if="name === 'Location'"
          :word="name"
          term="location"
        /><template v-else>{{ name }}</template></span>
        <span
          role="columnheader"
          class="came"
        >Size</span>
        <span
          role="columnheader"
          class="came"
        >Received</span>
      </div>
    </div>
    <div
      ref="scroller"
      class="scroll"
      role="rowgroup"
    >
      <div
        role="presentation"
        :style="{ height: `${virtual.getTotalSize()}px`, position: 'relative' }"
      >
        <div
          v-for="{ index, start, line } in rows"
          :key="line.id"
          role="row"
          class="row line"
          :data-row="index"
          :class="{ cursor: index === mail.cursor, ringed: index === mail.cursor && mail.ringed, chosen: mail.isChosen(line.id) }"
          :style="{ transform: `translateY(${start}px)`, height: `${ROW}px` }"
          :tabindex="index === tabStop ? 0 : -1"
          :aria-rowindex="index + 2"
          :aria-selected="mail.isChosen(line.id)"
          :aria-current="index === mail.cursor && mail.ringed ? 'true' : undefined"
          @mousedown.shift.prevent
          @click="press(line, $event)"
          @focus="focused(line)"
          @blur="left"
        >
          <span
            role="gridcell"
            class="cell two"
          ><LaneIcon
            :lane="line.lane"
            :filed="line.filed"
            :name="laneName(line)"
          /></span>
          <span
            v-if="withRecipient"
            role="gridcell"
            class="cell second"
            :title="line.recipient"
          >{{ line.recipientName }}</span>
          <span
            role="gridcell"
            class="cell"
            :title="line.sender"
          >{{ senderOf(line) }}</span>
          <span
            role="gridcell"
            class="cell two subject"
            :title="line.subject"
          ><span
            v-if="line.important"
            class="important"
            title="flagged important"
          >important</span><span
            v-if="folderName(line)"
            class="mark"
          >{{ folderName(line) }}</span><span
            v-for="t in line.tags"
            :key="t"
            class="mark tag"
          >{{ t }}</span> {{ line.subject || 'no subject' }}</span>
          <span
            role="gridcell"
            class="cell"
          ><span
            v-if="line.judgement"
            class="marked"
            :class="line.judgement"
          >{{ line.judgement }}</span></span>
          <span
            role="gridcell"
            class="cell second two"
            :title="line.reason"
          >{{ line.reason }}</span>
          <span
            role="gridcell"
            class="cell size numbers second"
          >{{ line.size === null ? '' : shortSize(line.size) }}</span>
          <span
            role="gridcell"
            class="cell came numbers"
          >{{ shortWhen(line.receivedAt) }}</span>
        </div>
      </div>
      <div
        v-if="mail.state !== 'loading' && !mail.items.length"
        role="row"
      >
        <div
          class="nothing"
          role="gridcell"
        >
          <slot name="nothing" />
        </div>
      </div>
    </div>
  </div>
</template>

<style scoped>
.row { grid-template-columns: 96px minmax(86px, 0.9fr) minmax(110px, 1.4fr) 62px minmax(170px, 1.8fr) 42px 60px; }
.recipients .row {
  grid-template-columns: 96px minmax(62px, 0.6fr) minmax(76px, 0.8fr) minmax(100px, 1.2fr) 60px minmax(150px, 1.6fr) 40px 58px;
}
.line { position: absolute; inset: 0 0 auto 0; }
.line.chosen { background: var(--chosen); box-shadow: inset 3px 0 0 var(--water); }
/* The ring is drawn by the store: it stays while the focus is in the message. */
.line:not(.ringed):focus-visible { outline: none; }
.mark, .important { white-space: nowrap; font-size: 12px; border-bottom: 1px solid var(--field); margin-right: 6px; color: var(--ink-2); }
.important { border-bottom: 2px solid var(--warn); color: var(--ink); font-weight: 700; }
.tag { font-style: italic; }
.subject { font-size: 13px; line-height: 1.25; }
.size { text-align: right; font-size: 12px; }
.marked { font-size: 12px; border-bottom: 2px solid; }
.marked.wanted { color: var(--wanted); }
.marked.unwanted { color: var(--unwanted); border-bottom-style: dotted; }
@media (max-width: 720px) {
  .row, .recipients .row { grid-template-columns: 24px 1fr 1.3fr 62px; }
  .recipients .row > :is(:nth-child(2), :nth-child(5), :nth-child(6), :nth-child(7)) { display: none; }
  .ledger:not(.recipients) .row > :is(:nth-child(4), :nth-child(5), :nth-child(6)) { display: none; }
  .line :deep(.lane > span) { display: none; }
}
</style>
