<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import { quarantineName } from '#core/words'

const mail = useMailStore()
const directory = useDirectoryStore()
const emit = defineEmits<{ open: [id: number] }>()

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
const rows = computed(() => virtual.value.getVirtualItems())

watch(
  () => rows.value.at(-1)?.index,
  (last) => {
    if (last !== undefined && last > mail.items.length - 20) void mail.more()
  },
)
watch(
  () => mail.cursor,
  async (at) => {
    virtual.value.scrollToIndex(at)
    await nextTick()
    if (scroller.value?.contains(document.activeElement)) rowElement(at)?.focus({ preventScroll: true })
  },
)

function rowElement(at: number): HTMLElement | null {
  return scroller.value?.querySelector(`[data-row="${at}"]`) ?? null
}

function press(at: number, event: MouseEvent) {
  const copy = mail.items[at]!
  mail.cursor = at
  if (event.ctrlKey || event.metaKey) mail.toggle(copy.id)
  else emit('open', copy.id)
}

const senderOf = (c: { senderName: string, sender: string }) => c.senderName || cutMiddle(c.sender || 'no sender', 24)
const laneName = (c: { lane: string, quarantine: string | null }) =>
  c.lane === 'quarantine' && directory.names.quarantines.length > 1
    ? quarantineName(directory.names, c.quarantine)
    : c.lane
defineExpose({ focus: () => rowElement(mail.cursor)?.focus() })
</script>

<template>
  <div
    class="ledger sheet"
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
          v-for="name in ['Lane', 'Sender', 'Subject', 'What decided']"
          :key="name"
          role="columnheader"
        >{{ name }}</span>
        <span
          role="columnheader"
          class="came"
        >Came</span>
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
          v-for="row in rows"
          :key="mail.items[row.index]!.id"
          role="row"
          class="row line"
          :data-row="row.index"
          :class="{ cursor: row.index === mail.cursor, chosen: mail.chosen.has(mail.items[row.index]!.id) }"
          :style="{ transform: `translateY(${row.start}px)`, height: `${ROW}px` }"
          :tabindex="row.index === mail.cursor ? 0 : -1"
          :aria-rowindex="row.index + 2"
          :aria-selected="mail.chosen.has(mail.items[row.index]!.id)"
          @click="press(row.index, $event)"
          @focus="mail.cursor = row.index"
        >
          <span
            role="gridcell"
            class="cell"
          ><LaneMark
            :lane="mail.items[row.index]!.lane"
            :name="laneName(mail.items[row.index]!)"
          /></span>
          <span
            role="gridcell"
            class="cell"
            :title="mail.items[row.index]!.sender"
          >{{ senderOf(mail.items[row.index]!) }}</span>
          <span
            role="gridcell"
            class="cell"
            :title="mail.items[row.index]!.subject"
          >{{ mail.items[row.index]!.subject || 'no subject' }}</span>
          <span
            role="gridcell"
            class="cell second"
            :title="mail.items[row.index]!.reason"
          >
            <span
              v-if="mail.items[row.index]!.judgement"
              class="judged"
              :class="mail.items[row.index]!.judgement!"
            >{{ mail.items[row.index]!.judgement }}</span>
            {{ mail.items[row.index]!.reason }}
          </span>
          <span
            role="gridcell"
            class="cell came numbers"
          >{{ shortWhen(mail.items[row.index]!.receivedAt) }}</span>
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
.ledger { display: flex; flex-direction: column; min-height: 0; min-width: 0; }
.row {
  display: grid;
  grid-template-columns: 104px minmax(90px, 1.1fr) minmax(110px, 1.55fr) minmax(110px, 1.5fr) 58px;
  gap: 10px;
  padding: 0 10px;
  align-items: center;
}
.head { height: 31px; border-bottom: 1px solid var(--hairline); }
.scroll { overflow-y: auto; flex: 1; min-height: 300px; scrollbar-gutter: stable; }
.head { padding-right: 24px; }
.line { position: absolute; inset: 0 0 auto 0; border-bottom: 1px solid var(--hairline); cursor: default; font-size: 14px; }
.line:hover { background: var(--hover); }
.line.cursor { background: var(--chosen); box-shadow: inset 0 -1px 0 var(--ink-2); }
.line.chosen { background: var(--chosen); box-shadow: inset 3px 0 0 var(--water); }
.line:focus-visible { outline-offset: -2px; }
.cell { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; min-width: 0; }
.came { text-align: right; }
.judged { font-size: 12px; border-bottom: 2px solid; margin-right: 4px; }
.judged.wanted { color: var(--wanted); }
.judged.unwanted { color: var(--unwanted); border-bottom-style: dotted; }
.nothing { padding: 40px 24px; }
@media (max-width: 720px) {
  .row { grid-template-columns: 24px 1fr 1.3fr 52px; }
  .row > :nth-child(4) { display: none; }
  .line :deep(.lane > span) { display: none; }
}
</style>
