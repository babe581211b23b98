<script setup lang="ts">
import { useSettingsPart } from '~/composables/settingsPart'

const { settings, fields, changed, error, firstOf, busy, save, leave } = useSettingsPart(
  h => ({ timeZone: h.timeZone, publicAddress: h.publicAddress }),
  f => ({ timeZone: f.timeZone, publicAddress: f.publicAddress }),
  'Time zone and web address saved.',
)
/** Under which this page was opened. */
const { origin } = location
const ZONES = Intl.supportedValuesOf('timeZone')
const zones = computed(() => [...new Set(['UTC', fields.value.timeZone, ...ZONES])].map(value => ({ value, name: value })))
const now = computed(() => {
  const { timeZone } = settings.data!
  return new Intl.DateTimeFormat('en-GB', { timeZone, timeStyle: 'short', dateStyle: 'medium' }).format()
})
</script>

<template>
  <SettingsPart
    id="place"
    title="Time zone and web address"
    :changed
    :error
    :busy
    @save="save"
    @leave="leave"
  >
    <template #sentence>
      Reports use this time zone. Links for new users begin with the web address.
      <ListeningNote
        v-if="settings.data"
        does="These pages are served at"
        variable="HOST"
        :at="settings.data.listening.web"
        :addresses="settings.data.listening.addresses"
      />
      <template v-if="settings.data?.listening.web.reach !== 'machine'">
        Without TLS, passwords can be read on the way: put a proxy with TLS in front.
      </template>
    </template>
    <p class="row">
      Time zone: <ChoiceField
        v-model="fields.timeZone"
        :options="zones"
        label="Time zone"
        filterable
        :width="220"
      /> <span class="second small">{{ now }} now</span>
    </p>
    <p
      v-if="firstOf('timeZone')"
      class="wrong"
    >
      {{ firstOf('timeZone') }}
    </p>
    <p class="row">
      Web address: <TextField
        v-model="fields.publicAddress"
        label="Web address"
        placeholder="the address in your browser"
        :width="320"
        code
      />
      <PressButton
        v-if="fields.publicAddress !== origin"
        plain
        @click="fields.publicAddress = origin"
      >
        Use {{ origin }}
      </PressButton>
    </p>
    <p
      v-if="firstOf('publicAddress')"
      class="wrong"
    >
      {{ firstOf('publicAddress') }}
    </p>
  </SettingsPart>
</template>

<style scoped>
.row { display: flex; flex-wrap: wrap; gap: 8px; align-items: center; }
</style>
