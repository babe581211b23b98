<script setup lang="ts">
import { defaultCounts, HAZARDS, isPersonal, type Hazard, type Stop } from '#core/policy'
import type { AssignmentForm } from '~/api/client'

/** How a list is put to use. */
const assignment = defineModel<AssignmentForm | null>({ required: true })
const {
  owner,
  fields = {},
  optional = false,
} = defineProps<{
  owner: string
  fields?: Record<string, string>
  /** It may have no use by itself. */ optional?: boolean
}>()
const directory = useDirectoryStore()
const session = useSessionStore()
const personal = computed(() => isPersonal(owner))
const canSetMandatory = computed(() => session.can('change all clauses') && !personal.value)

const SIDES = [
  { value: 'block', name: 'block: keep from the inbox' },
  { value: 'allow', name: 'allow: protect' },
  { value: 'none', name: 'nothing by itself; rules refer to it' },
] as const
const STOPS = [
  { value: 'spam', name: 'send to spam' },
  { value: 'quarantine', name: 'hold in a quarantine' },
  { value: 'bin', name: 'send to the bin' },
  { value: 'refuse', name: 'refuse, and say so' },
  { value: 'discard', name: 'drop in silence' },
] as const
const PROTECTS = [
  { value: false, name: 'from all that stops' },
  { value: true, name: 'from some of it only' },
] as const
const COUNTS = [
  { value: 'verified', name: 'when the sender is verified' },
  { value: 'notFailed', name: 'unless authentication fails' },
  { value: 'any', name: 'always' },
] as const
const STATES = [
  { value: 'enabled', name: 'enabled' },
  { value: 'monitor', name: 'monitor only' },
  { value: 'disabled', name: 'disabled' },
] as const
const DIRECTIONS = [
  { value: 'inbound', name: 'mail that comes in, by its sender' },
  { value: 'outbound', name: 'mail that goes out, by its recipient' },
  { value: 'internal', name: 'mail among us, by its sender' },
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
const stops = computed(() => STOPS.filter(s => !personal.value || (s.value !== 'refuse' && s.value !== 'discard')))
const stop = computed<Stop>(() => assignment.value?.stop ?? { to: 'spam' })
const patch = (change: Partial<AssignmentForm>) => (assignment.value = { ...assignment.value!, ...change })
const setStop = (to: Stop['to']) => patch({ stop: to === 'quarantine' ? { to, quarantine: 'general' } : { to } })
const narrowed = computed(() => assignment.value?.protect !== undefined)
const narrow = (some: boolean) => patch({ protect: some ? [...HAZARDS] : undefined })
const counts = computed(() => assignment.value?.counts ?? defaultCounts(owner))
</script>

<template>
  <div class="assignment">
    <ChoiceField
      :model-value="side"
      :options="sides"
      label="What the list does"
      :width="250"
      @update:model-value="turn"
    />
    <template v-if="assignment?.side === 'block'">
      <span>and</span>
      <ChoiceField
        :model-value="stop.to as 'spam'"
        :options="stops"
        label="Where blocked mail goes"
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
        placeholder="what the sender is told"
        :width="260"
        @update:model-value="(reply: string) => patch({ stop: { to: 'refuse', ...(reply.trim() ? { reply } : {}) } })"
      />
    </template>
    <template v-if="assignment?.side === 'allow'">
      <ChoiceField
        :model-value="narrowed"
        :options="PROTECTS"
        label="From what it protects"
        :width="200"
        @update:model-value="narrow"
      />
      <HazardFields
        v-if="narrowed"
        :model-value="assignment.protect ?? []"
        @update:model-value="(protect: Hazard[]) => patch({ protect })"
      />
      <span class="together">counts
        <ChoiceField
          :model-value="counts"
          :options="COUNTS"
          label="When an allow entry counts"
          :width="220"
          @update:model-value="value => patch({ counts: value })"
        />
      </span>
    </template>
    <template v-if="assignment">
      <ChoiceField
        :model-value="assignment.direction ?? 'inbound'"
        :options="DIRECTIONS"
        label="Direction"
        :width="270"
        @update:model-value="direction => patch({ direction })"
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
        @update:model-value="(v: unknown) => patch({ mandatory: v === true })"
      >
        nobody may soften it
      </el-checkbox>
      <WordHelp
        v-if="canSetMandatory"
        word="mandatory"
        :help="WORD_HELPS.mandatory"
      />
    </template>
    <div
      v-if="stop.to === 'discard'"
      class="note"
    >
      <p class="small warn">
        Dropped mail has no way back, and its sender believes that it arrived. Without your confirmation it goes to the bin instead.
      </p>
      <el-checkbox
        :model-value="stop.confirmed === true"
        @update:model-value="(v: unknown) => patch({ stop: { to: 'discard', ...(v === true ? { confirmed: true } : {}) } })"
      >
        I confirm that it may be dropped for good
      </el-checkbox>
    </div>
    <p
      v-if="stop.to === 'refuse'"
      class="small second note"
    >
      Refused mail is never here: nobody can fetch it back.
    </p>
    <p
      v-if="counts === 'any' && assignment?.side === 'allow'"
      class="small warn note"
    >
      A From is easily forged: whoever writes one of these addresses into it gets past.
    </p>
    <p
      v-else-if="assignment?.side === 'allow' && counts === 'verified' && directory.data && !directory.data.authenticator"
      class="small warn note"
    >
      No relay that verifies senders is configured, so no entry of this list can count yet.
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
