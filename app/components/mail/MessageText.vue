<script setup lang="ts">
import { withVisibleControls } from '#core/words'
import type { Attachment, HeaderField, TextPlace, Reason, Segment } from '#core'

const {
  segments,
  reasons,
  attachments = [],
  headers = [],
  lit = null,
  withSubject = false,
} = defineProps<{
  segments: Segment[]
  reasons: Reason[]
  /** Where words of a reason may stand besides the text. */
  attachments?: Pick<Attachment, 'name' | 'text'>[]
  headers?: Pick<HeaderField, 'name' | 'value'>[]
  lit?: string | null
  withSubject?: boolean
}>()

const phrases = computed(() =>
  reasons.flatMap((reason) => {
    const evidence = [
      ...reason.evidence,
      ...(reason.outcome.kind === 'excepted' ? reason.outcome.evidence : []),
      ...reason.lostExceptions.flatMap(l => l.evidence),
    ]
    return evidence.flatMap(e => (e.kind === 'phrase' ? [{ ...e, key: reasonLineKey(reason) }] : []))
  }),
)
const highlights = computed(() => Map.groupBy(phrases.value, p => p.segment))

/** How much is shown before and after words that stand outside the text. */
const AROUND = 90
const passages = computed(() =>
  [
    ...Map.groupBy(
      phrases.value.filter(p => p.segment >= segments.length && p.label !== undefined && p.place !== 'attachment name'),
      p => `${p.place} ${p.label}`,
    ).values(),
  ].flatMap((found) => {
    const { place, label } = found[0]!
    const text =
      place === 'header'
        ? headers.find(h => h.name.toLowerCase() === label)?.value
        : attachments.find(a => a.name === label)?.text
    if (text === undefined) return []
    const [from, to] = [
      Math.max(0, Math.min(...found.map(p => p.start)) - AROUND),
      Math.min(text.length, Math.max(...found.map(p => p.end)) + AROUND),
    ]
    const lead = from > 0 ? '… ' : ''
    return [
      {
        label,
        what: place === 'header' ? `the header ${label}` : withVisibleControls(label!),
        text: lead + text.slice(from, to) + (to < text.length ? ' …' : ''),
        highlights: found.map(p => ({ start: p.start - from + lead.length, end: p.end - from + lead.length, key: p.key })),
      },
    ]
  }),
)
const PLACE: Partial<Record<TextPlace, string>> = {
  subject: 'Subject',
  quoted: 'quoted from earlier mail',
  hidden: 'in the message, but hidden from the recipient',
}
const shown = computed(() =>
  segments
    .map((segment, index) => ({ ...segment, index }))
    .filter(s => (s.place === 'subject' ? withSubject && s.text !== '' : true)),
)
</script>

<template>
  <div class="text">
    <p
      v-if="!shown.length"
      class="second"
    >
      This message has no text.
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
        <HighlightedText
          :text="segment.text"
          :highlights="highlights.get(segment.index) ?? []"
          :lit
        />
      </div>
    </section>
    <section
      v-for="p in passages"
      :key="p.what"
      class="elsewhere"
      :aria-label="`in ${p.what}`"
    >
      <p class="second small what">
        in {{ p.what }}
      </p>
      <div class="words">
        <HighlightedText
          :text="p.text"
          :highlights="p.highlights"
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
.elsewhere { border: 1px solid var(--hairline); padding: 8px 12px; }
.hidden { border: 1px dashed var(--field); padding: 8px 12px; }
.subject .words { font-weight: 600; }
</style>
