<script setup lang="ts">
import { counted } from '#core/wording'
import { api, type SettingsView } from '~/api/client'

const settings = useSettingsStore()
const notices = useNoticeStore()
const directory = useDirectoryStore()
const { error, busy, submit } = useForm()
const names = reactive<Record<string, string>>({})
const fresh = ref('')
watch(() => settings.data?.quarantines, (all, before) => {
  // What nobody is editing follows what others changed: it would be set back otherwise.
  for (const q of all ?? []) {
    const was = before?.find(b => b.id === q.id)?.name
    if (names[q.id] === undefined || names[q.id] === was) names[q.id] = q.name
  }
}, { immediate: true })
const opened = ref<string | null>(null)
const others = (id: string) => (settings.data?.quarantines ?? []).filter(q => q.id !== id)
/** Who reviews it and how long it waits, in a few words. */
function summaryOf({ reviewers, waitDays, canRelease }: SettingsView['quarantines'][number]): string {
  const who = reviewers.length ? counted(reviewers.length, 'reviewer') : 'all reviewers'
  return [who, ...(waitDays ? [`at most ${counted(waitDays, 'day')}`] : []), ...(canRelease ? ['recipients can release'] : [])].join(', ')
}
useUnsaved(() => fresh.value.trim() !== '' || (settings.data?.quarantines ?? []).some(q => names[q.id] !== q.name))

const rename = (quarantine: SettingsView['quarantines'][number]) => submit(async () => {
  const { eventId, name } = await api.renameQuarantine(quarantine, names[quarantine.id]!)
  names[quarantine.id] = name
  await done(`Quarantine renamed to “${name}”.`, eventId)
})
const make = () => submit(async () => {
  const { eventId, name } = await api.makeQuarantine(fresh.value)
  fresh.value = ''
  await done(`Quarantine “${name}” added. Lists and rules can now hold mail in it.`, eventId)
})
async function done(words: string, eventId: number | null) {
  await Promise.all([settings.load(), directory.load()])
  notices.say(words, eventId)
}
</script>

<template>
  <SettingsPart
    id="quarantines"
    title="Quarantines"
    :error
  >
    <template #sentence>
      Messages are held here until a reviewer decides. The general quarantine always exists; add others for mail that different
      reviewers decide about.
    </template>
    <template
      v-for="q in settings.data?.quarantines"
      :key="q.id"
    >
      <div class="row">
        <LaneIcon
          lane="quarantine"
          quiet
        />
        <TextField
          v-model="names[q.id]!"
          :label="`Name of quarantine ${q.name}`"
        />
        <span
          v-if="q.general"
          class="second small"
        >general quarantine</span>
        <PressButton
          v-if="names[q.id]?.trim() && names[q.id] !== q.name"
          small
          :disabled="busy"
          @click="rename(q)"
        >
          Rename
        </PressButton>
        <PressButton
          small
          :aria-expanded="opened === q.id"
          :aria-label="`Settings of quarantine “${q.name}”`"
          @click="opened = opened === q.id ? null : q.id"
        >
          {{ opened === q.id ? 'Close' : 'Settings' }}
        </PressButton>
        <span class="second small">{{ summaryOf(q) }}</span>
      </div>
      <QuarantineSettings
        v-if="opened === q.id"
        :quarantine="q"
        :others="others(q.id)"
        @done="done"
      />
    </template>
    <div class="row">
      <TextField
        v-model="fresh"
        label="Name of the new quarantine"
        placeholder="name of a new quarantine"
      />
      <PressButton
        small
        :disabled="busy || !fresh.trim()"
        @click="make"
      >
        Add
      </PressButton>
    </div>
  </SettingsPart>
</template>

<style scoped>
.row { display: flex; gap: 10px; align-items: center; }
</style>
