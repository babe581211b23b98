<script setup lang="ts">
import { oneOf } from '#core/wording'
import type { SettingsView } from '~/api/client'

/** Where the product listens, from where it can be reached, and what to set where that is this machine alone. */
const { does, variable, at, addresses } = defineProps<{
  /** The beginning of the sentence: what listens there. */
  does: string
  /** The environment variable that sets it. */
  variable: 'HOST' | 'SMTP_HOST'
  at: SettingsView['listening']['web']
  addresses: readonly string[]
}>()
const own = computed(() => (addresses.length ? ` (${oneOf(addresses)})` : ''))
</script>

<template>
  <span>
    {{ does }} <span class="mono">{{ at.host.includes(':') ? `[${at.host}]` : at.host }}:{{ at.port }}</span>.
    <template v-if="at.reach === 'machine'">
      That address can be reached from this machine only. To open it to your network, stop Sober Gate and start it with
      <span class="mono">{{ variable }}=0.0.0.0 npm start</span>, which is all addresses of this machine{{ own }}, or with one of them.
    </template>
    <template v-else-if="at.reach === 'all'">
      It can be reached at every address of this machine{{ own }}, as far as its firewall allows.
    </template>
    <template v-else>
      It can be reached from the network of that address, as far as its firewall allows.
    </template>
  </span>
</template>
