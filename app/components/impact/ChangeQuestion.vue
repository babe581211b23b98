<script setup lang="ts">
import type { useSaveChanges } from '~/composables/saveChanges'

/** What has to be seen or said before a change goes on, in place of its foot. */
const { putting, yours, mine = false, watchable = false, beside = false } = defineProps<{
  putting: ReturnType<typeof useSaveChanges>
  /** The change in a sentence. */
  yours: string
  /** It is one person's own. */
  mine?: boolean
  /** It can be “monitor only” first. */
  watchable?: boolean
  /** The impact stands beside it, with the messages: they are not listed a second time. */
  beside?: boolean
}>()
const emit = defineEmits<{
  /** Set it to “monitor only” first. */
  watch: []
  /** Save it over what somebody else did. */
  over: []
  /** Give one's own up, and load what stands now. */
  load: []
}>()
const { question, checking, busy } = putting
/** The buttons stay in view beside them. */
const MAX_SHOWN = 5
const count = ref('')
const sure = ref(false)
const box = ref<HTMLElement | null>(null)
watch(question, () => {
  count.value = ''
  sure.value = false
})
// Its buttons can be pressed only once the answer before is done with.
watch([question, busy], async ([now, isBusy]) => {
  if (!now || isBusy) return
  await nextTick()
  ;(box.value?.querySelector<HTMLElement>('.acts button:not(:disabled)') ?? box.value)?.focus()
}, { immediate: true })
const erased = computed(() => (question.value?.kind === 'erases' ? question.value.impact.erased : 0))
const said = computed(() => (mine ? sure.value : count.value.trim() === String(erased.value)))
</script>

<template>
  <CheckingMail
    v-if="checking"
    :job="checking.job"
    @cancel="putting.cancel()"
  />
  <div
    v-else-if="question"
    ref="box"
    class="question"
    role="alertdialog"
    :aria-label="question.why"
    tabindex="-1"
  >
    <template v-if="question.kind === 'broad'">
      <p>{{ question.why }}</p>
      <ImpactSample
        v-if="!beside"
        :sample="question.impact.sample.slice(0, MAX_SHOWN)"
      />
      <div class="actions">
        <PressButton
          v-if="watchable"
          first
          :disabled="busy"
          @click="emit('watch')"
        >
          Monitor only first
        </PressButton>
        <PressButton
          :disabled="busy"
          @click="putting.goOn({ broad: true })"
        >
          Save anyway
        </PressButton>
        <PressButton
          plain
          @click="putting.leave()"
        >
          Cancel
        </PressButton>
      </div>
    </template>
    <template v-else-if="question.kind === 'erases'">
      <p class="warn">
        {{ question.why }}
      </p>
      <ImpactSample :sample="question.impact.sample.slice(0, MAX_SHOWN)" />
      <el-checkbox
        v-if="mine"
        v-model="sure"
      >
        I confirm: such mail is deleted permanently
      </el-checkbox>
      <label
        v-else
        class="count"
      >Type the number of messages that would be deleted <el-input
        v-model="count"
        inputmode="numeric"
        aria-label="Number of messages that would be deleted"
        style="width: 90px"
      /></label>
      <div class="actions">
        <PressButton
          :disabled="!said || busy"
          @click="putting.goOn({ erases: erased, broad: true })"
        >
          Save and delete such mail permanently
        </PressButton>
        <PressButton
          plain
          @click="putting.leave()"
        >
          Cancel
        </PressButton>
      </div>
    </template>
    <template v-else>
      <p>Someone else changed this while you were editing. Nothing is lost, and nothing is saved yet.</p>
      <div class="both">
        <div>
          <h3>Your change</h3>
          <p class="small">
            {{ yours }}
          </p>
        </div>
        <div>
          <h3>Changes since then</h3>
          <p
            v-for="t in question.theirs"
            :key="t.version"
            class="small"
          >
            {{ t.words }} <span class="second">— {{ t.by ?? 'Sober Gate' }}, {{ longDateTime(t.at) }}</span>
          </p>
          <p
            v-if="!question.theirs.length"
            class="small second"
          >
            Changed by a user whose lists and rules you cannot see.
          </p>
        </div>
      </div>
      <div class="actions">
        <PressButton
          :disabled="busy"
          @click="emit('over')"
        >
          Overwrite with mine
        </PressButton>
        <PressButton
          plain
          @click="emit('load')"
        >
          Discard mine and reload
        </PressButton>
        <PressButton
          plain
          @click="putting.leave()"
        >
          Cancel
        </PressButton>
      </div>
    </template>
  </div>
</template>

<style scoped>
.question {
  border-left: 3px solid var(--warn);
  padding: 2px 0 2px 12px;
  display: grid;
  gap: 8px;
  min-width: 0;
  max-height: 60vh;
  overflow-y: auto;
}
.question:focus { outline: none; }
.actions { display: flex; flex-wrap: wrap; gap: 6px 10px; }
.count { display: flex; gap: 10px; align-items: center; }
.both { display: grid; grid-template-columns: 1fr 1fr; gap: 18px; }
.both h3 { margin: 0 0 4px; font-size: 14px; }
</style>
