<script setup lang="ts">
import { api, type SettingsView } from '~/api/client'

/** The longest wait of one quarantine, where all retention stands together. */
const { quarantine } = defineProps<{ quarantine: SettingsView['quarantines'][number] }>()
const settings = useSettingsStore()
const notices = useNoticeStore()
const { error, busy, submit } = useForm()
const asIs = () => ({ days: quarantine.waitDays === null ? '' : String(quarantine.waitDays), afterWait: quarantine.afterWait })
const fields = ref(asIs())
const changed = computed(() => fields.value.days.trim() !== asIs().days || fields.value.afterWait !== asIs().afterWait)
useUnsaved(() => changed.value)
watch(() => quarantine, () => (fields.value = asIs()))

const save = () => submit(async () => {
  const { days, afterWait } = fields.value
  const { eventId } = await api.setQuarantine(quarantine, { afterWait, waitDays: days.trim() ? Number(days) : null })
  await settings.load()
  notices.say(`Retention of quarantine “${quarantine.name}” saved.`, eventId)
}, /^\d*$/.test(fields.value.days.trim()) ? {} : { waitDays: 'Enter a number of days, or leave the field empty.' })
</script>

<template>
  <form
    class="wait"
    @submit.prevent="save"
  >
    <LaneIcon
      lane="quarantine"
      :name="quarantine.name"
    />
    <WaitFields
      v-model:days="fields.days"
      v-model:after-wait="fields.afterWait"
      :name="quarantine.name"
    >
      <template v-if="changed">
        <PressButton
          first
          small
          type="submit"
          :disabled="busy"
        >
          Save
        </PressButton>
        <PressButton
          plain
          small
          @click="fields = asIs()"
        >
          Cancel
        </PressButton>
      </template>
    </WaitFields>
    <p
      v-if="error"
      class="wrong"
      role="alert"
    >
      {{ error }}
    </p>
  </form>
</template>

<style scoped>
.wait { display: grid; grid-template-columns: 150px minmax(0, 1fr); gap: 2px 10px; align-items: center; }
.wait > .wrong { grid-column: 2; }
</style>
