<script setup lang="ts">
import type { Place, Reason, Segment } from '#core'

const { segments, reasons, lit = null, withSubject = false } = defineProps<{ segments: Segment[], reasons: Reason[], lit?: string | null, withSubject?: boolean }>()

const marks = computed(() => {
  const bySegment = new Map<number, { start: number, end: number, key: string }[]>()
  reasons.forEach((reason) => {
    const evidence = [...reason.evidence, ...(reason.fate.kind === 'excepted' ? reason.fate.evidence : []), ...reason.lostExceptions.flatMap(l => l.evidence)]
    for (const e of evidence) {
      if (e.kind !== 'phrase') continue
      const list = bySegment.get(e.segment) ?? []
      bySegment.set(e.segment, list)
      list.push({ start: e.start, end: e.end, key: rungKey(reason) })
    }
  })
  return bySegment
})
const PLACE: Partial<Record<Place, string>> = { subject: 'Subject', quoted: 'quoted from earlier mail', hidden: 'in the message, but not shown to a reader' }
const shown = computed(() => segments.map((segment, index) => ({ ...segment, index })).filter(s => s.place === 'subject' ? withSubject && s.text !== '' : true))
</script>

<template>
  <div class="text">
    <p
      v-if="!shown.length"
      class="second"
    >
      There is no text in this message.
    </p>
    <section
      v-for="segment in shown"
      :key="segment.index"
      :class="segment.place"
    >
      <p
        v-if="PLACE[segment.place]"
        class="second small what"
      >
        {{ PLACE[segment.place] }}
      </p>
      <div class="words">
        <MarkedText
          :text="segment.text"
          :marks="marks.get(segment.index) ?? []"
          :lit
        />
      </div>
    </section>
  </div>
</template>

<style scoped>
.words { white-space: pre-wrap; overflow-wrap: anywhere; }
section + section { margin-top: 14px; }
.quoted { border-left: 2px solid var(--field); padding-left: 12px; color: var(--ink-2); }
.hidden { border: 1px dashed var(--field); padding: 8px 12px; }
.subject .words { font-weight: 600; }
</style>
