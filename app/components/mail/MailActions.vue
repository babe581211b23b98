<script setup lang="ts">
import { LANE_NAMES } from '#core/words'
import { counted } from '#core/wording'
import type { useMailActionList } from '~/composables/mailActions'
import { LANE_OF_MOVE } from '~/stores/mailActions'

/** What can be done with what is meant. */
const { actions } = defineProps<{ actions: ReturnType<typeof useMailActionList> }>()
const mail = useMailStore()
const directory = useDirectoryStore()
const isSaid = (value: 'wanted' | 'unwanted') =>
  mail.meant.length > 0 && !mail.all && mail.meant.every(c => c.judgement === value && c.judgementStrength === 'said')
const said = computed(() => isSaid('wanted') || isSaid('unwanted'))
</script>

<template>
  <footer v-if="mail.meant.length && (mail.opened || mail.chosenCount)">
    <template v-if="actions.holding.value">
      <p class="small">
        Hold {{ counted(actions.holding.value.length, 'message') }} in which quarantine?
      </p>
      <div class="actions">
        <PressButton
          v-for="q in directory.names.quarantines"
          :key="q.id"
          @click="actions.hold(q.id)"
        >
          {{ q.name }}
        </PressButton>
        <PressButton
          plain
          @click="actions.leave()"
        >
          Cancel
        </PressButton>
      </div>
    </template>
    <template v-else>
      <div class="actions">
        <PressButton
          v-for="value in (['wanted', 'unwanted'] as const)"
          :key="value"
          :first="isSaid(value)"
          :aria-pressed="isSaid(value)"
          @click="actions.mark(value)"
        >
          {{ value === 'wanted' ? 'Wanted' : 'Unwanted' }} <kbd>{{ value === 'wanted' ? 'W' : 'U' }}</kbd>
        </PressButton>
        <PressButton
          v-if="said"
          plain
          @click="actions.mark(null)"
        >
          Clear mark
        </PressButton>
      </div>
      <div
        v-if="actions.moves.value.length"
        class="actions"
      >
        <span class="second small">Move to</span>
        <button
          v-for="m in actions.moves.value"
          :key="m.lane"
          class="press lane"
          type="button"
          :title="`Move to ${LANE_OF_MOVE[m.lane]}`"
          @click="actions.move(m.lane)"
        >
          {{ LANE_NAMES[m.lane] }} <kbd>{{ m.key }}</kbd>
        </button>
      </div>
      <p
        v-if="actions.stays.value"
        class="second small"
      >
        {{ actions.stays.value }}
      </p>
    </template>
  </footer>
</template>

<style scoped>
footer { border-top: 1px solid var(--hairline); padding: 12px 20px; display: grid; gap: 8px; }
.actions { display: flex; flex-wrap: wrap; gap: 6px; align-items: center; }
.actions .lane { padding: 3px 6px; font-size: 13px; gap: 5px; }
</style>
