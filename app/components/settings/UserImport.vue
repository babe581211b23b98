<script setup lang="ts">
import { numberWords } from '#core/wording'
import { api, type UserImportReport } from '~/api/client'

/** Imports users from a CSV file: what it would do is shown first. */
const emit = defineEmits<{ done: [] }>()
const notices = useNoticeStore()
const { error, stale, busy, submit } = useForm()
const file = ref<{ name: string, text: string } | null>(null)
const report = ref<UserImportReport | null>(null)
const SHOWN = 50

const choose = ([chosen]: File[]) => submit(async () => {
  if (!chosen) return
  file.value = { name: chosen.name, text: await chosen.text() }
  report.value = null
  await preview()
})
async function preview() {
  report.value = await api.previewPeople(file.value!.text)
}
const again = () => submit(preview)
const run = () => submit(async () => {
  const { added, changed, eventId } = await api.importPeople(file.value!.text, report.value!.version)
  cancel()
  emit('done')
  notices.say(`Users imported: ${numberWords(added)} added, ${numberWords(changed)} changed. Invite the users who should sign in.`, eventId)
})
function cancel() {
  file.value = null
  report.value = null
}
const counts = computed(() => {
  const { added, changed, same, wrongCount } = report.value!
  const counted: [number, string][] = [[added, 'new'], [changed, 'changed'], [same, 'unchanged'], [wrongCount, 'cannot be imported']]
  return counted.filter(([n]) => n).map(([n, word]) => `${numberWords(n)} ${word}`)
})
const lines = computed(() => report.value!.lines.slice(0, SHOWN))
const more = computed(() => report.value!.added + report.value!.changed - lines.value.length)
const wrong = computed(() => report.value!.wrong.slice(0, SHOWN))
const moreWrong = computed(() => report.value!.wrongCount - wrong.value.length)
useUnsaved(() => report.value !== null && report.value.added + report.value.changed > 0)
</script>

<template>
  <div class="import">
    <FileField
      label="Import CSV…"
      caption="Import CSV…"
      accept=".csv,text/csv"
      @choose="choose"
    />
    <div
      v-if="file && report"
      class="report"
      role="region"
      :aria-label="`Result of importing ${file.name}`"
    >
      <p>
        <strong>{{ file.name }}</strong>
        <span class="second"> · {{ counts.join(' · ') }}</span>
      </p>
      <template v-if="report.wrongCount">
        <p class="wrong small">
          Nothing can be imported until these lines are corrected:
        </p>
        <ul class="small">
          <li
            v-for="w in wrong"
            :key="w.line"
          >
            <span class="mono">line {{ w.line }}</span> {{ w.why }}
          </li>
        </ul>
        <p
          v-if="moreWrong"
          class="small second"
        >
          and {{ numberWords(moreWrong) }} more
        </p>
      </template>
      <table
        v-if="lines.length"
        class="small"
      >
        <thead>
          <tr>
            <th>Line</th><th>User</th><th>What changes</th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="l in lines"
            :key="l.line"
          >
            <td class="mono">
              {{ l.line }}
            </td>
            <td>{{ l.name }} <span class="second">{{ l.isNew ? 'new' : '' }}</span></td>
            <td>{{ l.changes.join('; ') }}</td>
          </tr>
        </tbody>
      </table>
      <p
        v-if="more"
        class="small second"
      >
        and {{ numberWords(more) }} more
      </p>
      <p
        v-if="!report.wrongCount && !report.added && !report.changed"
        class="small"
      >
        This file changes nothing.
      </p>
      <p class="actions">
        <PressButton
          v-if="!report.wrongCount && report.added + report.changed"
          :disabled="busy || stale"
          @click="run"
        >
          Import
        </PressButton>
        <PressButton
          v-if="stale"
          :disabled="busy"
          @click="again"
        >
          Check the file again
        </PressButton>
        <PressButton
          plain
          @click="cancel"
        >
          {{ report.added + report.changed ? 'Cancel' : 'Close' }}
        </PressButton>
      </p>
    </div>
    <p
      v-if="error"
      class="wrong"
      role="alert"
    >
      {{ error }}
    </p>
  </div>
</template>

<style scoped>
/* One of the buttons of its row; what the file would do stands below all of them. */
.import { display: contents; }
.report, .import > .wrong { flex: 1 0 100%; }
.report { border-left: 3px solid var(--water); padding: 4px 12px; display: grid; gap: 6px; }
.report ul { list-style: none; margin: 0; padding: 0; }
td, th { text-align: left; vertical-align: baseline; padding: 2px 16px 2px 0; overflow-wrap: anywhere; }
th { font-weight: 500; color: var(--ink-2); }
td.mono { white-space: nowrap; }
.press.plain:focus-within { outline: 2px solid var(--water); outline-offset: 2px; }
</style>
