<script setup lang="ts">
import { LANE_NAMES, placeOfCopy } from '#core/words'
import type { AttemptView } from '~/api/client'

/** The message log, a row for each message that was offered. */
const log = useMessageLogStore()
const directory = useDirectoryStore()
const scroller = useTemplateRef<HTMLElement>('scroller')
const COLUMNS = ['Location', 'From', 'To', 'Subject', 'Reply'] as const

/** Where it is now; of what was not accepted that alone. */
function placeOf({ copy, replyCode }: AttemptView): { lane: NonNullable<AttemptView['copy']>['lane'], name: string } | null {
  if (replyCode >= 500) return { lane: 'refused', name: LANE_NAMES.refused }
  if (replyCode >= 400 || !copy) return null
  const name = copy.gone === 'erased' ? 'Deleted permanently' : placeOfCopy(copy, directory.names)
  return { lane: copy.lane, name }
}
/** In two lines, if it must: the domain begins the second. A very long one is cut in its middle, so that a look-alike domain shows. */
const breakable = (address: string) => cutMiddle(address, 44).replace('@', '\u{200B}@')
const noPlace = ({ replyCode }: AttemptView) => (replyCode >= 400 ? 'deferred' : 'accepted')

watch(() => log.at, async () => {
  await nextTick()
  const busy = document.activeElement?.closest('input, textarea, [contenteditable], .el-popper')
  const row = scroller.value?.querySelector<HTMLElement>(`[data-row="${log.cursor}"]`)
  if (!busy) row?.focus({ preventScroll: true })
  row?.scrollIntoView({ block: 'nearest' })
})
function scrolled() {
  const box = scroller.value!
  if (box.scrollTop + box.clientHeight > box.scrollHeight - 400) void log.more()
}
</script>

<template>
  <div
    class="ledger sheet"
    role="grid"
    aria-label="Message log"
    :aria-rowcount="log.next === null ? log.items.length + 1 : -1"
    :aria-busy="log.state === 'loading'"
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
        >{{ name }}</span>
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
      @scroll.passive="scrolled"
    >
      <div
        v-for="(a, i) in log.items"
        :key="a.id"
        role="row"
        class="row line"
        :data-row="i"
        :class="{ cursor: a.id === log.at }"
        :tabindex="i === Math.max(0, log.cursor) ? 0 : -1"
        :aria-rowindex="i + 2"
        :aria-current="a.id === log.at ? 'true' : undefined"
        @click="log.open(a)"
        @focus="log.at = a.id"
      >
        <span
          role="gridcell"
          class="cell two"
        ><LaneIcon
          v-if="placeOf(a)"
          :lane="placeOf(a)!.lane"
          :name="placeOf(a)!.name"
        /><span
          v-else
          class="second"
        >{{ noPlace(a) }}</span></span>
        <span
          role="gridcell"
          class="cell two address"
          :title="a.mailFrom ?? undefined"
        >{{ breakable(a.from || a.mailFrom || 'null sender') }}</span>
        <span
          role="gridcell"
          class="cell second two address"
          :title="a.rcptTo ?? undefined"
        >{{ breakable(a.rcptTo ?? 'no recipient') }}</span>
        <span
          role="gridcell"
          class="cell two subject"
          :title="a.subject ?? undefined"
        >{{ a.subject ?? 'no message received' }}</span>
        <span
          role="gridcell"
          class="cell second two"
          :title="`${a.replyCode} ${a.reply}`"
        >{{ a.replyCode }} {{ a.reply }}</span>
        <span
          role="gridcell"
          class="cell came numbers"
        >{{ shortWhen(a.at) }}</span>
      </div>
      <div
        v-if="log.state === 'ready' && !log.items.length"
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
.row { grid-template-columns: 104px minmax(130px, 1.1fr) minmax(110px, 1fr) minmax(110px, 1.2fr) minmax(96px, 0.8fr) 62px; }
.subject { font-size: 13px; line-height: 1.25; }
.address { overflow-wrap: anywhere; }
.line { height: 36px; }
@media (max-width: 720px) {
  .row { grid-template-columns: 24px 1fr 1.3fr 62px; }
  .row > :is(:nth-child(3), :nth-child(5)) { display: none; }
  .line :deep(.lane > span) { display: none; }
}
</style>
