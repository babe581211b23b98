<script setup lang="ts">
import { effectKindOf, effectWords } from '#core/kinds'
import { useAcceptedDirections } from '~/composables/acceptedDirections'
import { effectFieldOf } from '~/composables/kindFields'
import { EFFECTS_OFFERED, hasEffectOfLane, type Sheet } from '~/composables/ruleSheet'

/** What of a rule is seldom needed, folded away while nothing of it is said. */
const sheet = defineModel<Sheet>({ required: true })
defineProps<{
  /** Headers, and effects where a copy is stopped, are an administrator's. */
  administrator: boolean
  /** Which later rules it stops. */
  ends: readonly { value: Sheet['end'], name: string }[]
}>()
const noSuchMail = useAcceptedDirections()
const FURTHER = EFFECTS_OFFERED.filter(kind => effectKindOf(kind).form!.further)
const { direction, end, description, group, expires, reviewOn, inEveryLane, effects } = sheet.value
const said = [description, group, expires, reviewOn, ...FURTHER.map(kind => effects[kind])]
const opened = ref(direction !== 'inbound' || end !== '' || said.some(t => t !== '') || inEveryLane)
const DIRECTIONS = [
  { value: 'inbound', name: 'inbound mail' },
  { value: 'outbound', name: 'outbound mail' },
  { value: 'internal', name: 'internal mail' },
] as const
</script>

<template>
  <details
    class="further"
    :open="opened"
    @toggle="(e: Event) => opened = (e.target as HTMLDetailsElement).open"
  >
    <summary>More options</summary>
    <div class="grid">
      <span>applies to</span>
      <ChoiceField
        v-model="sheet.direction"
        :options="DIRECTIONS"
        label="Direction"
        :width="200"
      />
      <template v-if="noSuchMail(sheet.direction)">
        <span />
        <p class="warn small">
          {{ noSuchMail(sheet.direction) }}
        </p>
      </template>
      <span>stops later rules</span>
      <ChoiceField
        v-model="sheet.end"
        :options="ends"
        label="Stops later rules"
        :width="230"
      />
      <template v-if="administrator">
        <template
          v-for="kind in FURTHER"
          :key="kind"
        >
          <span>{{ effectWords({ kind }) }}</span>
          <component
            :is="effectFieldOf(kind)"
            v-model="sheet.effects[kind]"
          />
        </template>
        <span />
        <el-checkbox
          v-model="sheet.inEveryLane"
          :disabled="!hasEffectOfLane(sheet)"
        >
          Add header and subject prefix to stopped mail too
        </el-checkbox>
      </template>
      <span>description</span>
      <el-input
        v-model="sheet.description"
        aria-label="Description"
        placeholder="purpose, for colleagues"
      />
      <span>group</span>
      <TextField
        v-model="sheet.group"
        label="Group"
        placeholder="such as Payments"
      />
      <span>review date</span>
      <DayField
        v-model="sheet.reviewOn"
        label="Review date"
      />
      <span>expires</span>
      <DayField
        v-model="sheet.expires"
        label="Expiry"
        placeholder="never"
      />
    </div>
  </details>
</template>

<style scoped>
.further { margin-top: 8px; }
.further summary { cursor: pointer; color: var(--water); font-weight: 600; font-size: 14px; }
.grid {
  display: grid;
  grid-template-columns: 130px minmax(0, 1fr);
  gap: 8px 14px;
  align-items: center;
  padding: 10px 0 2px;
  justify-items: start;
}
.grid > span { color: var(--ink-2); font-size: 14px; }
</style>
