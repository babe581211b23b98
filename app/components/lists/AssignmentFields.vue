<script setup lang="ts">
import type { Direction } from '#core/message'
import { countsOf, HAZARDS, isPersonal, type Hazard, type Stop } from '#core/policy'
import type { AssignmentForm } from '~/api/client'
import { useAcceptedDirections } from '~/composables/acceptedDirections'
import { isMainOf, mainFor } from '~/composables/ruleSheet'

/** An assignment of a list. */
const assignment = defineModel<AssignmentForm | null>({ required: true })
const {
  owner,
  fields = {},
  optional = false,
} = defineProps<{
  owner: string
  fields?: Record<string, string>
  /** It may be without an assignment. */ optional?: boolean
}>()
const directory = useDirectoryStore()
const session = useSessionStore()
const personal = computed(() => isPersonal(owner))
const canSetMandatory = computed(() => session.can('change all lists and rules') && !personal.value)

const SIDES = [
  { value: 'block', name: 'Block' },
  { value: 'allow', name: 'Allow' },
  { value: 'none', name: 'No assignment (used in rules only)' },
] as const
const STOPS = [
  { value: 'spam', name: 'move to Spam' },
  { value: 'quarantine', name: 'hold in quarantine…' },
  { value: 'bin', name: 'move to Bin' },
  { value: 'refuse', name: 'refuse, with a reply' },
  { value: 'discard', name: 'discard without notice' },
] as const
const PROTECTS = [
  { value: false, name: 'despite every block' },
  { value: true, name: 'despite some blocks only' },
] as const
const STATES = [
  { value: 'enabled', name: 'enabled' },
  { value: 'monitor', name: 'monitor only' },
  { value: 'disabled', name: 'disabled' },
] as const
const DIRECTIONS = [
  { value: 'inbound', name: 'inbound mail, by sender' },
  { value: 'outbound', name: 'outbound mail, by recipient' },
  { value: 'internal', name: 'internal mail, by sender' },
] as const

const sides = computed(() => SIDES.filter(u => optional || u.value !== 'none'))
const side = computed(() => assignment.value?.side ?? 'none')
function turn(side: 'none' | 'allow' | 'block') {
  assignment.value =
    side === 'none'
      ? null
      : side === 'block'
        ? { side, state: 'enabled', stop: { to: 'spam' } }
        : { side, state: 'enabled' }
}
const stops = computed(() => STOPS.filter(s =>
  (!personal.value || (s.value !== 'refuse' && s.value !== 'discard')) && isMainOf(assignment.value?.direction ?? 'inbound', s.value)))
const stop = computed<Stop>(() => assignment.value?.stop ?? { to: 'spam' })
const patch = (change: Partial<AssignmentForm>) => (assignment.value = { ...assignment.value!, ...change })
const noSuchMail = useAcceptedDirections()
/** The action follows the direction, where it was only the usual one. */
function redirect(direction: Direction) {
  const main = mainFor(stop.value.to, { from: assignment.value?.direction ?? 'inbound', to: direction })
  patch({ direction })
  if (assignment.value?.side === 'block' && main !== stop.value.to) setStop(main as Stop['to'])
}
const setStop = (to: Stop['to']) => patch({ stop: to === 'quarantine' ? { to, quarantine: 'general' } : { to } })
const narrowed = computed(() => assignment.value?.protect !== undefined)
const narrow = (some: boolean) => patch({ protect: some ? [...HAZARDS] : undefined })
const counts = computed(() => countsOf(assignment.value ?? {}))
</script>

<template>
  <div class="assignment">
    <ChoiceField
      :model-value="side"
      :options="sides"
      label="Assignment"
      :width="250"
      @update:model-value="turn"
    />
    <template v-if="assignment?.side === 'block'">
      <span>:</span>
      <ChoiceField
        :model-value="stop.to as 'spam'"
        :options="stops"
        label="Action"
        :width="190"
        @update:model-value="setStop"
      />
      <QuarantineSelect
        v-if="stop.to === 'quarantine'"
        :model-value="stop.quarantine ?? 'general'"
        @update:model-value="(quarantine: string) => patch({ stop: { to: 'quarantine', quarantine } })"
      />
      <TextField
        v-if="stop.to === 'refuse'"
        :model-value="stop.reply ?? ''"
        label="Reply"
        placeholder="reply to the sender"
        :width="260"
        @update:model-value="(reply: string) => patch({ stop: { to: 'refuse', ...(reply.trim() ? { reply } : {}) } })"
      />
    </template>
    <template v-if="assignment?.side === 'allow'">
      <ChoiceField
        :model-value="narrowed"
        :options="PROTECTS"
        label="Allow despite"
        :width="200"
        @update:model-value="narrow"
      />
      <HazardFields
        v-if="narrowed"
        :model-value="assignment.protect ?? []"
        @update:model-value="(protect: Hazard[]) => patch({ protect })"
      />
      <span
        v-if="!assignment.mandatory"
        class="together"
      >for
        <ChoiceField
          :model-value="counts"
          :options="COUNTS_OPTIONS"
          label="Senders that count"
          :width="220"
          @update:model-value="value => patch({ counts: value === 'verified' ? undefined : value })"
        />
      </span>
    </template>
    <template v-if="assignment">
      <ChoiceField
        :model-value="assignment.direction ?? 'inbound'"
        :options="DIRECTIONS"
        label="Direction"
        :width="270"
        @update:model-value="redirect"
      />
      <ChoiceField
        :model-value="assignment.state"
        :options="STATES"
        label="State"
        :width="110"
        @update:model-value="state => patch({ state })"
      />
      <el-checkbox
        v-if="canSetMandatory"
        :model-value="assignment.mandatory === true"
        @update:model-value="(v: unknown) => patch({ mandatory: v === true, ...(v === true ? { counts: undefined } : {}) })"
      >
        Users cannot override it:
      </el-checkbox>
      <WordHelp
        v-if="canSetMandatory"
        word="mandatory"
        term="mandatory"
      />
    </template>
    <div
      v-if="stop.to === 'discard'"
      class="note"
    >
      <p class="small warn">
        Discarded mail cannot be restored, and its sender believes that it arrived. Without your confirmation it is moved to Bin instead.
      </p>
      <el-checkbox
        :model-value="stop.confirmed === true"
        @update:model-value="(v: unknown) => patch({ stop: { to: 'discard', ...(v === true ? { confirmed: true } : {}) } })"
      >
        I confirm that messages are discarded
      </el-checkbox>
    </div>
    <p
      v-if="assignment && noSuchMail(assignment.direction)"
      class="small warn note"
    >
      {{ noSuchMail(assignment.direction) }}
    </p>
    <p
      v-if="stop.to === 'refuse'"
      class="small second note"
    >
      Refused mail is not stored and cannot be restored.
    </p>
    <p
      v-if="assignment?.side === 'allow' && forgeryWarning(counts)"
      class="small warn note"
    >
      {{ forgeryWarning(counts) }}
    </p>
    <p
      v-else-if="assignment?.side === 'allow' && counts === 'verified' && directory.data && !directory.data.authenticator"
      class="small warn note"
    >
      Senders cannot be verified at present, so this list has no effect.
    </p>
    <p
      v-for="text in Object.entries(fields).filter(([path]) => path.startsWith('assignment')).map(([, t]) => t)"
      :key="text"
      class="wrong note"
    >
      {{ text }}
    </p>
  </div>
</template>

<style scoped>
.assignment { display: flex; flex-wrap: wrap; gap: 8px 12px; align-items: center; }
.together { display: inline-flex; gap: 12px; align-items: center; }
.note { flex-basis: 100%; }
</style>
