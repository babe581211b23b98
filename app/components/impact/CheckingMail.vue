<script setup lang="ts">
import { counted, numberWords } from '#core/wording'
import type { JobView } from '~/api/client'

/** All mail is counted before a change is saved: how far that is, and the way out. */
const { job } = defineProps<{ job: JobView | null }>()
const emit = defineEmits<{ cancel: [] }>()
const far = computed(() => (job?.total ? ` ${numberWords(job.done)} of ${counted(job.total, 'message')} so far.` : ''))
</script>

<template>
  <div class="checking">
    <p role="status">
      Checking all mail…{{ far }} It is saved afterwards, unless you have to confirm something first.
    </p>
    <PressButton
      v-if="job"
      plain
      @click="emit('cancel')"
    >
      Cancel
    </PressButton>
  </div>
</template>

<style scoped>
.checking { display: flex; flex-wrap: wrap; gap: 6px 10px; align-items: center; min-width: 0; }
</style>
