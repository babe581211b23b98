<script setup lang="ts">
import type { PolicyChange } from '#core/change'
import type { SavedChanges } from '~/api/client'
import { useImpact } from '~/composables/impact'
import { useSaveChanges } from '~/composables/saveChanges'

/** The fix of a finding: what it changes, what that does to the mail that is here, and the press that saves it. */
const { change } = defineProps<{
  change: readonly PolicyChange[]
  /** The same in a sentence. */
  words: string
}>()
const emit = defineEmits<{ leave: [], fixed: [] }>()
const directory = useDirectoryStore()
const notices = useNoticeStore()
const impact = useImpact(() => change)
const putting = useSaveChanges(() => ({ changes: [...change], coming: true }), async ({ eventId, version }: SavedChanges) => {
  notices.say(eventId === null ? 'Nothing to change: this was already saved.' : `Fixed. Policy version ${version} is active.`, eventId)
  await directory.load()
  emit('fixed')
})
</script>

<template>
  <div class="fix">
    <p>{{ words }}</p>
    <p
      v-if="putting.error.value"
      class="wrong"
      role="alert"
    >
      {{ putting.error.value }}
    </p>
    <ChangeQuestion
      v-if="putting.isAsking.value"
      :putting
      :yours="words"
      beside
      @over="putting.putOver()"
      @load="emit('fixed')"
    />
    <div
      v-else
      class="actions"
    >
      <PressButton
        first
        :disabled="putting.busy.value || impact.impact.value === null"
        @click="putting.put()"
      >
        Apply
      </PressButton>
      <PressButton
        plain
        @click="emit('leave')"
      >
        Cancel
      </PressButton>
    </div>
    <!-- Below the buttons: it grows while somebody is about to press them. -->
    <ImpactPanel :of="impact" />
  </div>
</template>

<style scoped>
.fix { display: grid; gap: 8px; padding: 6px 0; max-width: 560px; }
.actions { display: flex; gap: 8px; }
</style>
