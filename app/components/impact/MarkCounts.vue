<script setup lang="ts">
import { wilson } from '#core/simulate'
import { counted, percentWords, plural } from '#core/wording'
import { markedWords } from '~/composables/impactWords'

/** How people marked what something matched, in a few words; how certain that is, on demand. */
const { wanted, unwanted, implied = 0, short = false, blocks = false } = defineProps<{
  wanted: number
  unwanted: number
  /** Of both: what follows from a move. */
  implied?: number
  short?: boolean
  /** It blocks: what was marked wanted is a mistake of it. */
  blocks?: boolean
}>()
const marked = computed(() => wanted + unwanted)
const words = computed(() => markedWords({ wanted, unwanted }, { blocks, short }))
const help = computed(() => {
  const interval = wilson(unwanted, marked.value).map(share => percentWords(Math.round(share * 100) / 100)).join(' and ')
  const by = implied ? ` ${counted(implied, 'mark')} ${plural(implied, 'follows', 'follow')} from a move.` : ''
  return `Estimate for all such mail: between ${interval} is unwanted (95% confidence).${by}`
})
</script>

<template>
  <WordHelp
    v-if="marked"
    :word="words"
    :help
  />
</template>
