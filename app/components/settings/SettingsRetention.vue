<script setup lang="ts">
import { useSettingsPart } from '~/composables/settingsPart'

const days = (n: number | null) => (n === null ? '' : String(n))
const read = (text: string) => (text.trim() ? Number(text) : null)
// What is no number would be nothing, and nothing is for ever.
const wrongIn = (text: string) => !/^\d*$/.test(text.trim())
const PARTS = ['bin', 'spam', 'attempts'] as const
const lacks = (f: Record<(typeof PARTS)[number], string>) =>
  Object.fromEntries(PARTS.filter(k => wrongIn(f[k])).map(k => [`retention.${k}`, 'Write a number of days, or nothing.']))
const { fields, changed, error, firstOf, busy, save, leave } = useSettingsPart(
  h => ({ bin: days(h.retention.bin), spam: days(h.retention.spam), attempts: days(h.retention.attempts) }),
  f => ({ retention: { bin: read(f.bin), spam: read(f.spam), attempts: read(f.attempts) } }),
  'How long things are kept is changed, and in force.',
  lacks,
)
</script>

<template>
  <SettingsPart
    id="retention"
    title="How long things are kept"
    :changed
    :error
    :busy
    @save="save"
    @leave="leave"
  >
    <template #sentence>
      Once a day what is older is cleared away for good. An empty field keeps it for ever; 30 days are usual. What somebody asks for stays.
    </template>
    <template
      v-for="(where, lane) in { bin: 'the bin', spam: 'spam' }"
      :key="lane"
    >
      <p class="row">
        What lies in {{ where }} is erased after <TextField
          v-model="fields[lane]"
          :label="`Days in ${where}`"
          placeholder="never"
          :width="80"
          code
        /> days; its record stays.
      </p>
      <p
        v-if="firstOf(`retention.${lane}`)"
        class="wrong"
      >
        {{ firstOf(`retention.${lane}`) }}
      </p>
    </template>
    <p class="row">
      Tries at the door by which nothing came in are forgotten after <TextField
        v-model="fields.attempts"
        label="Days for tries at the door"
        placeholder="never"
        :width="80"
        code
      /> days.
    </p>
    <p
      v-if="firstOf('retention.attempts')"
      class="wrong"
    >
      {{ firstOf('retention.attempts') }}
    </p>
    <p
      v-if="changed && (fields.bin.trim() || fields.spam.trim())"
      class="small warn"
    >
      What is erased does not come back, and nobody can take that back. Make sure that people look into their bins and their spam.
    </p>
  </SettingsPart>
</template>

<style scoped>
.row { display: flex; flex-wrap: wrap; gap: 8px; align-items: center; }
</style>
