<script setup lang="ts">
import { counted } from '#core/wording'
import { api, type FixView, type TogetherView } from '~/api/client'

/** The fixes that together correct most for least harm: saved in one press, each of them shown, and any can be left out. */
const { ids, members, busy } = defineProps<{
  ids: number[]
  members: FixView[]
  /** One of the fixes is being saved. */
  busy: boolean
}>()
const emit = defineEmits<{ apply: [fix: TogetherView] }>()

const leftOut = ref(new Set<string>())
const chosen = computed(() => members.filter(m => !leftOut.value.has(m.sentence)))
const found = shallowRef<TogetherView | null>(null)
const failure = ref('')
/** Pressed before all mail was counted: it waits for that. */
const waits = ref(false)
let asked = 0
watch([() => ids.join(), () => chosen.value.map(m => m.sentence).join('\n')], async () => {
  const mine = ++asked
  found.value = null
  failure.value = ''
  // What was pressed was about what was shown then.
  waits.value = false
  if (!chosen.value.length) return
  try {
    const one = await api.fixesTogether(ids, chosen.value.map(({ sentence, changes }) => ({ sentence, changes })))
    if (mine !== asked) return
    found.value = one
    if (waits.value) apply()
  }
  catch (error) {
    if (mine !== asked) return
    waits.value = false
    failure.value = error instanceof Error ? error.message : String(error)
  }
}, { immediate: true })
onUnmounted(() => asked++)

function apply() {
  waits.value = found.value === null
  if (found.value) emit('apply', found.value)
}

function toggle(sentence: string) {
  const now = new Set(leftOut.value)
  if (!now.delete(sentence)) now.add(sentence)
  leftOut.value = now
}
const words = computed(() => `${members[0]?.permission === 'ask' ? 'Propose' : 'Apply'} ${counted(chosen.value.length, 'fix', 'fixes')}`)
</script>

<template>
  <div class="cover">
    <p><strong>Apply several fixes together</strong></p>
    <p
      class="second small"
      role="status"
    >
      {{ found ? found.why : chosen.length ? 'Checking all mail…' : 'Select at least one fix.' }}
    </p>
    <div class="members">
      <el-checkbox
        v-for="m in members"
        :key="m.sentence"
        :model-value="!leftOut.has(m.sentence)"
        @change="toggle(m.sentence)"
      >
        {{ m.sentence }}
      </el-checkbox>
    </div>
    <p
      v-if="failure"
      class="wrong"
      role="alert"
    >
      {{ failure }}
    </p>
    <ImpactBar
      v-if="found"
      :impact="found.moved"
      :scale="Math.max(1, found.moved.wanted + found.moved.unwanted + found.moved.unmarked)"
      empty="no other mail"
    />
    <PressButton
      first
      small
      :disabled="busy || !chosen.length"
      @click="apply()"
    >
      {{ waits ? 'Waiting for the impact…' : words }}
    </PressButton>
    <slot />
  </div>
</template>

<style scoped>
.cover { display: grid; gap: 4px; justify-items: start; padding: 11px 0; border-top: 1px solid var(--hairline); --bar: 84px; }
.members { display: grid; justify-items: start; }
.members :deep(.el-checkbox) { height: auto; min-height: 28px; white-space: normal; margin-right: 0; align-items: start; }
.members :deep(.el-checkbox__input) { margin-top: 3px; }
.members :deep(.el-checkbox__label) { overflow-wrap: anywhere; line-height: 1.4; }
</style>
