<script setup lang="ts">
import type { useMailActs } from '~/composables/mailActions'
import { LANE_OF_MOVE } from '~/stores/mailActions'

/** What can be done with what is meant. */
const { acts } = defineProps<{ acts: ReturnType<typeof useMailActs> }>()
const mail = useMailStore()
const directory = useDirectoryStore()
const isSaid = (value: 'wanted' | 'unwanted') =>
  mail.meant.length > 0 && !mail.all && mail.meant.every(c => c.judgement === value && c.judgementStrength === 'said')
const said = computed(() => isSaid('wanted') || isSaid('unwanted'))
</script>

<template>
  <footer v-if="mail.meant.length && (mail.opened || mail.chosenCount)">
    <template v-if="acts.holding.value">
      <p class="small">
        Hold {{ acts.holding.value.length === 1 ? 'it' : `the ${acts.holding.value.length}` }} in which quarantine?
      </p>
      <div class="acts">
        <PressButton
          v-for="q in directory.names.quarantines"
          :key="q.id"
          @click="acts.hold(q.id)"
        >
          {{ q.name }}
        </PressButton>
        <PressButton
          plain
          @click="acts.leave()"
        >
          Leave it
        </PressButton>
      </div>
    </template>
    <template v-else>
      <div class="acts">
        <PressButton
          v-for="value in (['wanted', 'unwanted'] as const)"
          :key="value"
          :first="isSaid(value)"
          :aria-pressed="isSaid(value)"
          @click="acts.judge(value)"
        >
          {{ value === 'wanted' ? 'Wanted' : 'Unwanted' }} <kbd>{{ value === 'wanted' ? 'W' : 'U' }}</kbd>
        </PressButton>
        <PressButton
          v-if="said"
          plain
          @click="acts.judge(null)"
        >
          Unsay
        </PressButton>
      </div>
      <div
        v-if="acts.moves.value.length"
        class="acts"
      >
        <span class="second small">send to</span>
        <button
          v-for="m in acts.moves.value"
          :key="m.lane"
          class="press lane"
          type="button"
          :title="`Send to ${LANE_OF_MOVE[m.lane]}`"
          @click="acts.move(m.lane)"
        >
          {{ m.lane }} <kbd>{{ m.key }}</kbd>
        </button>
      </div>
      <p
        v-if="acts.stays.value"
        class="second small"
      >
        {{ acts.stays.value }}
      </p>
    </template>
  </footer>
</template>

<style scoped>
footer { border-top: 1px solid var(--hairline); padding: 12px 20px; display: grid; gap: 8px; }
.acts { display: flex; flex-wrap: wrap; gap: 6px; align-items: center; }
.acts .lane { padding: 3px 6px; font-size: 13px; gap: 5px; }
</style>
