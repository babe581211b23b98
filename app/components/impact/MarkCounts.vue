<script setup lang="ts">
import { wilson } from '#core/simulate'

/** What people said of what something caught, in a few words; how sure that is, on demand. */
const { wanted, unwanted, implied = 0, short = false } = defineProps<{
  wanted: number
  unwanted: number
  /** Of both: what follows from a move, and nobody said. */
  implied?: number
  short?: boolean
}>()
const marked = computed(() => wanted + unwanted)
const percent = (share: number) => `${Math.round(share * 100)} %`
const words = computed(() => {
  const of = marked.value.toLocaleString('en')
  return `${unwanted.toLocaleString('en')} of ${of} judged${short ? '' : ' were'} unwanted`
})
const help = computed(() => {
  const interval = wilson(unwanted, marked.value).map(percent).join(' and ')
  const by = implied ? `${implied.toLocaleString('en')} of them by a move, not by a word. ` : ''
  return `${by}As far as so few say, between ${interval} of such mail is unwanted (95 % sure).`
})
</script>

<template>
  <WordHelp
    v-if="marked"
    :word="words"
    :help
  />
</template>
