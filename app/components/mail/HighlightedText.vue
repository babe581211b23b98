<script setup lang="ts">
const {
  text,
  highlights,
  lit = null,
} = defineProps<{
  text: string
  /** Stretches in UTF-16 units; `key` says which reason line a mark belongs to. */
  highlights: { start: number, end: number, key: string }[]
  lit?: string | null
}>()

/** The text cut at every begin and end of a mark; marks may lie over each other. */
const pieces = computed(() => {
  const cuts = [
    ...new Set([0, text.length, ...highlights.flatMap(m => [Math.min(m.start, text.length), Math.min(m.end, text.length)])]),
  ].sort((a, b) => a - b)
  return cuts.slice(0, -1).map((start, i) => {
    const end = cuts[i + 1]!
    const over = highlights.filter(m => m.start < end && m.end > start)
    return { text: text.slice(start, end), keys: over.map(m => m.key) }
  })
})
</script>

<template>
  <template
    v-for="(piece, i) in pieces"
    :key="i"
  >
    <mark
      v-if="piece.keys.length"
      :class="{ lit: lit !== null && piece.keys.includes(lit) }"
    >{{ piece.text }}</mark><template v-else>
      {{ piece.text }}
    </template>
  </template>
</template>

<style scoped>
mark { background: var(--mark); color: inherit; border-bottom: 2px solid var(--mark-line); padding: 1px 0; }
mark.lit { outline: 2px solid var(--mark-line); outline-offset: 1px; }
</style>
