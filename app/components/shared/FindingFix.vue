<script setup lang="ts">
import type { PolicyChange } from '#core/change'
import type { PutInForce } from '~/api/client'
import { useImpact } from '~/composables/impact'
import { usePuttingInForce } from '~/composables/saveChanges'

/** The mend of a finding: what it changes, what that does to the mail that is here, and the press that puts it in force. */
const { change } = defineProps<{
  change: readonly PolicyChange[]
  /** The same in a sentence. */
  words: string
}>()
const emit = defineEmits<{ leave: [], mended: [] }>()
const directory = useDirectoryStore()
const notices = useNoticeStore()
const impact = useImpact(() => change)
const putting = usePuttingInForce(() => ({ changes: [...change], coming: true }), async ({ act, version }: PutInForce) => {
  notices.say(act === null ? 'That was so already.' : `Put right, in force as version ${version}.`, act)
  await directory.load()
  emit('mended')
})
</script>

<template>
  <div class="mend">
    <p>{{ words }}</p>
    <ImpactPanel :of="impact" />
    <p
      v-if="putting.error.value"
      class="wrong"
      role="alert"
    >
      {{ putting.error.value }}
    </p>
    <ChangeQuestion
      v-if="putting.question.value"
      :putting
      :yours="words"
      @over="putting.putOver()"
      @load="emit('mended')"
    />
    <div
      v-else
      class="acts"
    >
      <PressButton
        first
        :disabled="putting.busy.value || impact.impact.value === null"
        @click="putting.put()"
      >
        Put it in force
      </PressButton>
      <PressButton
        plain
        @click="emit('leave')"
      >
        Leave it
      </PressButton>
    </div>
  </div>
</template>

<style scoped>
.mend { display: grid; gap: 8px; padding: 6px 0; max-width: 560px; }
.acts { display: flex; gap: 8px; }
</style>
