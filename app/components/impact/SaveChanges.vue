<script setup lang="ts">
import type { useImpact } from '~/composables/impact'
import type { useSaveChanges } from '~/composables/saveChanges'
import type { Which } from '~/composables/whichMail'

/** The end of a form that changes the policy: to which mail it applies, and what is asked before; else its own foot. */
const which = defineModel<Which>({ required: true })
const { of, putting, yours, mine, protects = false, watchable = false, panel = false, readonly = false } = defineProps<{
  /** It is not theirs to change: only the foot is shown. */
  readonly?: boolean
  of: ReturnType<typeof useImpact>
  putting: ReturnType<typeof useSaveChanges>
  /** The change in a sentence. */
  yours: string
  /** It is one person's own. */
  mine: boolean
  protects?: boolean
  watchable?: boolean
  /** Its impact stands here, and not beside the form. */
  panel?: boolean
}>()
const emit = defineEmits<{ watch: [], load: [] }>()
</script>

<template>
  <label
    v-if="putting.proposing.value && !readonly"
    class="note small"
  >
    <span>You cannot change this. Propose the change to an administrator. Reason:</span>
    <el-input
      :model-value="putting.note.value"
      placeholder="reason, for the administrator"
      aria-label="Reason for the proposal"
      :maxlength="2000"
      @update:model-value="(text: string) => putting.say(text)"
    />
  </label>
  <WhichMail
    v-else-if="!readonly"
    v-model="which"
    :impact="of.impact.value"
    :protects
  />
  <ChangeQuestion
    v-if="putting.isAsking.value"
    :putting
    :yours
    :mine
    :watchable
    beside
    @watch="emit('watch')"
    @over="putting.putOver()"
    @load="emit('load')"
  />
  <slot v-else />
  <!-- Below the buttons: it arrives, and grows, while somebody is about to press them. -->
  <ImpactPanel
    v-if="panel && of.state.value !== 'idle'"
    :of
  />
</template>

<style scoped>
.note { display: grid; gap: 4px; }
</style>
