<script setup lang="ts">
import { wilson } from '#core/rehearse'

/** What people said of what something caught, in a few words; how sure that is, on demand. */
const { wanted, unwanted, short = false } = defineProps<{ wanted: number, unwanted: number, short?: boolean }>()
const judged = computed(() => wanted + unwanted)
const percent = (share: number) => `${Math.round(share * 100)} %`
const words = computed(() => `${unwanted.toLocaleString('en')} of ${judged.value.toLocaleString('en')} judged${short ? '' : ' were'} unwanted`)
const help = computed(() =>
  `As far as so few say, between ${wilson(unwanted, judged.value).map(percent).join(' and ')} of such mail is unwanted (95 % sure).`)
</script>

<template>
  <WordHelp
    v-if="judged"
    :word="words"
    :help
  />
</template>
