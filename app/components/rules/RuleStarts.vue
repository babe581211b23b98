<script setup lang="ts">
import { isWhole } from '#core/simulate'
import { counted, numberWords } from '#core/wording'
import { api, type ImpactView } from '~/api/client'
import { lacks } from '~/composables/conditionRows'
import { newId } from '~/composables/newId'
import { ruleOf } from '~/composables/ruleSheet'
import type { StartingSentence } from '~/composables/startingSentences'

/** Beginnings of a rule, each with what it would do to existing mail. */
const { starts, owner } = defineProps<{ starts: readonly StartingSentence[], owner: string }>()
const emit = defineEmits<{ begin: [start: StartingSentence] }>()
/** By the id of the start; null where it cannot be counted. */
const impacts = ref<Record<string, ImpactView | null>>({})

let asked: AbortController | null = null
// One after the other: each looks through all mail, and what somebody chooses meanwhile does not wait for the others.
watch(() => [owner, starts.map(s => s.id).join()] as const, countAll, { immediate: true })
async function countAll() {
  asked?.abort()
  const mine = (asked = new AbortController())
  impacts.value = {}
  for (const start of starts) {
    const sheet = start.sheet(owner)
    if (sheet.when.some(row => lacks(row))) continue
    try {
      const changes = [{ type: 'put' as const, kind: 'rule' as const, value: { ...ruleOf(sheet), id: newId() } }]
      await api.impact({ changes }, impact => mine === asked && (impacts.value[start.id] = impact), mine.signal)
    }
    catch (error) {
      if (mine.signal.aborted) return
      impacts.value[start.id] = null
      console.warn(error)
    }
    if (mine !== asked) return
  }
}
onUnmounted(() => asked?.abort())

function words({ id, sheet }: StartingSentence): string {
  const impact = impacts.value[id]
  if (impact === null) return 'impact not known'
  if (!impact) return sheet(owner).when.some(row => lacks(row)) ? 'impact after you fill it in' : 'counting…'
  const { copies, wanted, unwanted } = impact
  const marked = [
    ...(wanted ? [`${numberWords(wanted)} wanted`] : []),
    ...(unwanted ? [`${numberWords(unwanted)} unwanted`] : []),
  ]
  return `${isWhole(impact) ? '' : 'so far '}${counted(copies, 'message')}${marked.length ? `: ${marked.join(', ')}` : ''}`
}
</script>

<template>
  <section aria-labelledby="starts">
    <h2 id="starts">
      Start with one of these
    </h2>
    <p class="second small">
      Each with its impact on existing mail. Or fill in the form.
    </p>
    <ul>
      <li
        v-for="s in starts"
        :key="s.id"
      >
        <PressButton
          plain
          small
          @click="emit('begin', s)"
        >
          {{ s.name }}
        </PressButton>
        <span
          class="small"
          :class="impacts[s.id]?.wanted ? 'warn' : 'second'"
        >{{ words(s) }}</span>
      </li>
    </ul>
  </section>
</template>

<style scoped>
ul { list-style: none; margin: 2px 0 0; padding: 0; }
li {
  display: flex;
  flex-wrap: wrap;
  gap: 0 12px;
  align-items: baseline;
  justify-content: space-between;
  border-bottom: 1px solid var(--hairline);
  padding: 2px 0;
}
li .press { margin-left: -5px; }
</style>
