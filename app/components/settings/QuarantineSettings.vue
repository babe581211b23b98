<script setup lang="ts">
import isSame from 'fast-deep-equal'
import { api, type SettingsView } from '~/api/client'

/** Who reviews a quarantine, how long what it holds waits, and what its recipients may; and its end. */
const { quarantine, others } = defineProps<{
  quarantine: SettingsView['quarantines'][number]
  /** Where its mail can go when it is deleted. */
  others: { id: string, name: string }[]
}>()
const emit = defineEmits<{ done: [words: string, eventId: number | null] }>()
const directory = useDirectoryStore()
const { error, busy, submit } = useForm()
const asIs = () => {
  const { reviewers, deputy, waitDays, afterWait, visible, notified, canRequest, canRelease } = quarantine
  const days = waitDays === null ? '' : String(waitDays)
  return { reviewers: [...reviewers], deputy: deputy ?? '', days, afterWait, visible, notified, canRequest, canRelease }
}
const fields = ref(asIs())
const changed = computed(() => !isSame(fields.value, asIs()))
useUnsaved(() => changed.value)
watch(() => quarantine, () => (fields.value = asIs()))

const AFTER = [
  { value: 'bin' as const, name: 'it goes to the bin' },
  { value: 'release' as const, name: 'it is released' },
]
const RIGHTS = {
  visible: 'see what is held',
  notified: 'have it counted above',
  canRequest: 'may ask for it',
  canRelease: 'may release it themselves',
} as const
const nobody = { value: '', name: 'nobody' }
const people = computed(() => directory.data?.people ?? [])

const save = () => submit(async () => {
  const { deputy, days, ...rest } = fields.value
  const { eventId } = await api.setQuarantine(quarantine, { ...rest, deputy: deputy || null, waitDays: days.trim() ? Number(days) : null })
  emit('done', `What is settled of “${quarantine.name}” is in force.`, eventId)
}, /^\d*$/.test(fields.value.days.trim()) ? {} : { waitDays: 'Write a number of days, or nothing.' })

const deleting = ref(false)
const to = ref('general')
const remove = () => submit(async () => {
  const { eventId, moved } = await api.removeQuarantine(quarantine, to.value)
  const name = others.find(o => o.id === to.value)?.name ?? to.value
  emit('done', `“${quarantine.name}” is deleted; ${moved} held ${moved === 1 ? 'message is' : 'messages are'} in “${name}” now.`, eventId)
})
</script>

<template>
  <form
    class="settings"
    @submit.prevent="save"
  >
    <p
      v-if="!quarantine.general"
      class="row"
    >
      It is reviewed by <el-select
        v-model="fields.reviewers"
        class="line-field"
        multiple
        filterable
        placeholder="everybody who reviews"
        :aria-label="`Reviewers of ${quarantine.name}`"
        style="min-width: 230px; width: auto"
      >
        <el-option
          v-for="p in people"
          :key="p.id"
          :value="p.id"
          :label="p.name"
        />
      </el-select> with <ChoiceField
        v-model="fields.deputy"
        :options="[nobody, ...people.map(p => ({ value: p.id, name: p.name }))]"
        :label="`Deputy of ${quarantine.name}`"
        filterable
        :width="170"
      /> as their deputy
    </p>
    <p class="row">
      What nobody decides in <TextField
        v-model="fields.days"
        :label="`Longest wait in ${quarantine.name}, in days`"
        placeholder="any"
        :width="64"
        code
      /> days: <ChoiceField
        v-model="fields.afterWait"
        :options="AFTER"
        :label="`What then, in ${quarantine.name}`"
        :width="170"
      /> <span class="second small">what somebody asks for waits on</span>
    </p>
    <p class="row">
      Its readers
      <el-checkbox
        v-for="(words, right) in RIGHTS"
        :key="right"
        v-model="fields[right]"
        :disabled="right !== 'visible' && !fields.visible"
      >
        {{ words }}
      </el-checkbox>
    </p>
    <p
      v-if="fields.canRelease && fields.visible"
      class="small warn"
    >
      Then nobody else looks at it first: not for mail that may be a fraud.
    </p>
    <p
      v-if="error"
      class="wrong"
      role="alert"
    >
      {{ error }}
    </p>
    <div
      v-if="deleting"
      class="row"
    >
      What it holds, and what lists and rules would hold there, goes to <ChoiceField
        v-model="to"
        :options="others.map(o => ({ value: o.id, name: o.name }))"
        label="Where its mail goes"
        :width="170"
      />
      <PressButton
        danger
        small
        :disabled="busy"
        @click="remove"
      >
        Delete it
      </PressButton>
      <PressButton
        plain
        small
        @click="deleting = false"
      >
        Leave it
      </PressButton>
    </div>
    <div
      v-else
      class="actions"
    >
      <PressButton
        v-if="changed"
        first
        small
        type="submit"
        :disabled="busy"
      >
        Put in force
      </PressButton>
      <PressButton
        v-if="changed"
        plain
        small
        @click="fields = asIs()"
      >
        Leave it
      </PressButton>
      <PressButton
        v-if="!quarantine.general"
        plain
        small
        danger
        @click="deleting = true"
      >
        Delete this quarantine …
      </PressButton>
    </div>
  </form>
</template>

<style scoped>
.settings { display: grid; gap: 7px; padding: 2px 0 12px 28px; font-size: 14px; }
.row { display: flex; flex-wrap: wrap; gap: 4px 8px; align-items: center; }
.row .el-checkbox { margin-right: 6px; }
</style>
