<script setup lang="ts">
import { useSettingsPart } from '~/composables/settingsPart'

const { settings, fields, changed, error, firstOf, busy, save, leave } = useSettingsPart(
  h => ({ timeZone: h.timeZone, publicAddress: h.publicAddress }),
  f => ({ timeZone: f.timeZone, publicAddress: f.publicAddress }),
  'Where this house stands is changed, and in force.',
)
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
    title="Time and address"
    :changed
    :error
    :busy
    @save="save"
    @leave="leave"
  >
    <template #sentence>
      The time that answers are written in, and where people reach this page: links that are sent out begin with it.
    </template>
    <p class="row">
      Our time is that of <ChoiceField
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
      People come to <TextField
        v-model="fields.publicAddress"
        label="Public address"
        placeholder="the address by which you came"
        :width="320"
        code
      />
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
