<script setup lang="ts">
import { LANE_NAMES } from '#core/words'
import { useSettingsPart } from '~/composables/settingsPart'

const days = (n: number | null) => (n === null ? '' : String(n))
const read = (text: string) => (text.trim() ? Number(text) : null)
// What is no number would be nothing, and nothing is for ever.
const wrongIn = (text: string) => !/^\d*$/.test(text.trim())
const PARTS = ['bin', 'spam', 'attempts'] as const
const lacks = (f: Record<(typeof PARTS)[number], string>) =>
  Object.fromEntries(PARTS.filter(k => wrongIn(f[k])).map(k => [`retention.${k}`, 'Enter a number of days, or leave the field empty.']))
const { settings, fields, changed, deletes, error, firstOf, busy, save, leave } = useSettingsPart(
  h => ({ bin: days(h.retention.bin), spam: days(h.retention.spam), attempts: days(h.retention.attempts) }),
  f => ({ retention: { bin: read(f.bin), spam: read(f.spam), attempts: read(f.attempts) } }),
  'Retention saved.',
  lacks,
)
const typed = ref('')
watch(deletes, () => (typed.value = ''))
</script>

<template>
  <SettingsPart
    id="retention"
    title="Retention"
    :changed
    :error
    :busy
    :asking="deletes !== null"
    @save="save()"
    @leave="leave"
  >
    <template #sentence>
      Older messages are deleted permanently once a day. An empty field keeps them without limit; 30 days are common. Messages with
      an open release request are kept.
    </template>
    <template
      v-for="(where, lane) in { bin: LANE_NAMES.bin, spam: LANE_NAMES.spam }"
      :key="lane"
    >
      <p class="row">
        Delete messages in {{ where }} permanently after <TextField
          v-model="fields[lane]"
          :label="`Days in ${where}`"
          placeholder="never"
          :width="80"
          code
        /> days. The log entry is kept.
      </p>
      <p
        v-if="firstOf(`retention.${lane}`)"
        class="wrong"
      >
        {{ firstOf(`retention.${lane}`) }}
      </p>
    </template>
    <p class="row">
      Delete message log entries of mail that was not accepted after <TextField
        v-model="fields.attempts"
        label="Days for the message log"
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
      Permanently deleted messages cannot be restored. Make sure that users check their Spam and Bin.
    </p>
    <template #asking>
      <div
        class="question"
        role="alertdialog"
        :aria-label="deletes!.why"
      >
        <p class="warn">
          {{ deletes!.why }}
        </p>
        <label class="row">Messages that are deleted <el-input
          v-model="typed"
          inputmode="numeric"
          aria-label="Number of messages that are deleted"
          style="width: 90px"
        /></label>
        <div class="actions">
          <PressButton
            :disabled="busy || typed.trim() !== String(deletes!.count)"
            @click="save({ erases: deletes!.count })"
          >
            Save and delete them permanently
          </PressButton>
          <PressButton
            plain
            @click="leave()"
          >
            Cancel
          </PressButton>
        </div>
      </div>
    </template>
    <template #below>
      <h3>Quarantines</h3>
      <p class="second small">
        How many days a held message waits for a decision. An empty field means without limit. Messages with an open release request
        are kept.
      </p>
      <QuarantineWait
        v-for="q in settings.data?.quarantines"
        :key="q.id"
        :quarantine="q"
      />
    </template>
  </SettingsPart>
</template>

<style scoped>
.question { border-left: 3px solid var(--warn); padding: 2px 0 2px 12px; display: grid; gap: 8px; min-width: 0; }
.row { display: flex; flex-wrap: wrap; gap: 8px; align-items: center; }
</style>
