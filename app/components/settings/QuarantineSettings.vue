<script setup lang="ts">
import isSame from 'fast-deep-equal'
import { counted } from '#core/wording'
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

const RIGHTS = {
  visible: 'can see their held messages',
  notified: 'see the number in the menu',
  canRequest: 'can request release',
  canRelease: 'can release themselves',
} as const
const none = { value: '', name: 'none' }
const people = computed(() => directory.data?.people ?? [])

const save = () => submit(async () => {
  const { deputy, days, ...rest } = fields.value
  const { eventId } = await api.setQuarantine(quarantine, { ...rest, deputy: deputy || null, waitDays: days.trim() ? Number(days) : null })
  emit('done', `Settings of quarantine “${quarantine.name}” saved.`, eventId)
}, /^\d*$/.test(fields.value.days.trim()) ? {} : { waitDays: 'Enter a number of days, or leave the field empty.' })

const deleting = ref(false)
const to = ref('general')
const remove = () => submit(async () => {
  const { eventId, moved } = await api.removeQuarantine(quarantine, to.value)
  const name = others.find(o => o.id === to.value)?.name ?? to.value
  emit('done', `Quarantine “${quarantine.name}” deleted. ${counted(moved, 'message')} moved to quarantine “${name}”.`, eventId)
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
      Reviewers: <el-select
        v-model="fields.reviewers"
        class="line-field"
        multiple
        filterable
        placeholder="all reviewers"
        :aria-label="`Reviewers of ${quarantine.name}`"
        style="min-width: 230px; width: auto"
      >
        <el-option
          v-for="p in people"
          :key="p.id"
          :value="p.id"
          :label="p.name"
        />
      </el-select> Deputy:
      <ChoiceField
        v-model="fields.deputy"
        :options="[none, ...people.map(p => ({ value: p.id, name: p.name }))]"
        :label="`Deputy of ${quarantine.name}`"
        filterable
        :width="170"
      />
    </p>
    <p
      v-else
      class="second small"
    >
      Reviewers: all. The other quarantines can have reviewers of their own, and a deputy.
    </p>
    <WaitFields
      v-model:days="fields.days"
      v-model:after-wait="fields.afterWait"
      :name="quarantine.name"
    >
      <span class="second small">not while a release request is open</span>
    </WaitFields>
    <p class="row">
      Recipients
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
      Held messages can then be released without a reviewer: do not use this for possible fraud.
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
      Its messages, and messages that lists and rules would hold here, go to quarantine <ChoiceField
        v-model="to"
        :options="others.map(o => ({ value: o.id, name: o.name }))"
        label="Quarantine for its messages"
        :width="170"
      />
      <PressButton
        danger
        small
        :disabled="busy"
        @click="remove"
      >
        Delete quarantine
      </PressButton>
      <PressButton
        plain
        small
        @click="deleting = false"
      >
        Cancel
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
        Save
      </PressButton>
      <PressButton
        v-if="changed"
        plain
        small
        @click="fields = asIs()"
      >
        Cancel
      </PressButton>
      <PressButton
        v-if="!quarantine.general"
        plain
        small
        danger
        @click="deleting = true"
      >
        Delete quarantine…
      </PressButton>
    </div>
  </form>
</template>

<style scoped>
.settings { display: grid; gap: 7px; padding: 2px 0 12px 28px; font-size: 14px; }
.row { display: flex; flex-wrap: wrap; gap: 4px 8px; align-items: center; }
.row .el-checkbox { margin-right: 6px; }
</style>
