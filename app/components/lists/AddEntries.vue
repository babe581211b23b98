<script setup lang="ts">
import type { PolicyChange } from '#core/change'
import { readLines, type EntryKind } from '#core/kinds'
import { isPersonal } from '#core/policy'
import { counted, numberWords, plural } from '#core/wording'
import { api, type Added, type OpenedList, type PasteProgress, type PasteView, type SavedChanges } from '~/api/client'
import { MAX_SIMULATED, useImpact } from '~/composables/impact'
import { takeLines } from '~/composables/leftLines'
import { usePasteReport } from '~/composables/pasteReport'
import { useSaveChanges } from '~/composables/saveChanges'
import { allThatComes, existingOf, movesHere, type Which } from '~/composables/whichMail'

/** Adds entries to a list; what cannot be read stays in the field. */
const { list } = defineProps<{ list: OpenedList }>()
const emit = defineEmits<{ added: [] }>()
const notices = useNoticeStore()
const TAKEN_FOR: { value: EntryKind | '', name: string }[] = [
  { value: '', name: 'detect automatically' },
  { value: 'words', name: 'whole words in name or address' },
  { value: 'contains', name: 'part of name or address (contains)' },
  { value: 'mailingList', name: 'mailing lists (List-Id)' },
  { value: 'network', name: 'IP networks of the sending server' },
  { value: 'pattern', name: 'patterns with * and ?' },
]
const adding = reactive({ text: takeLines(list.id), as: '' as EntryKind | '', below: false, note: '', expires: '' })
/** What became of what was added last. */
const done = shallowRef<PasteView | null>(null)
const ahead = usePasteReport(() => list.id, () => ({ text: adding.text, below: adding.below, ...(adding.as ? { as: adding.as } : {}) }))
/** How far a long paste is. */
const progress = shallowRef<PasteProgress | null>(null)
const { error, fields, submit } = useForm()
/** Networks among other lines, until it is said whether they are meant: they take whatever comes from there. */
const networks = ref<string[]>([])
useUnsaved(() => adding.text.trim() !== '' && !done.value)

const which = ref<Which>(allThatComes())
const work = useJobStore()
const protects = computed(() => list.assignments.length > 0 && list.assignments.every(b => b.side === 'allow'))
const lines = computed(() => readLines({ text: adding.text, below: adding.below, ...(adding.as ? { as: adding.as } : {}) }))
/** What would be put, as far as it can be read; null where nothing follows from it. */
const changes = computed<PolicyChange[] | null>(() => {
  if (!adding.text.trim() || (!beyond.value && !list.assignments.length && !list.rules.length)) return null
  const { at } = lines.value
  // What is there stays as it is, note and expiry too.
  const there = new Set(ahead.value?.lines.filter(l => l.outcome === 'there').map(l => l.line))
  const good = lines.value.good.filter((_, i) => !there.has(at[i]!))
  if (!good.length || good.length > MAX_SIMULATED) return null
  const entries = good.map(({ kind, value }) => ({
    kind,
    value,
    ...(adding.note ? { note: adding.note } : {}),
    ...(adding.expires ? { expires: adding.expires } : {}),
  }))
  return [{ type: 'put', kind: 'entries', list: list.id, entries }]
})
/** It is not theirs to change, and can only be proposed. */
const beyond = computed(() => !list.canChange)
const impact = useImpact(() => changes.value, () => beyond.value)
const putting = useSaveChanges(
  () => ({
    changes: changes.value!,
    coming: which.value.coming,
    existing: existingOf(which.value, protects.value, impact.impact.value),
  }),
  putIn,
  { is: () => beyond.value, done: () => void (adding.text = lines.value.wrong.map(w => w.text).join('\n')) },
)
async function putIn(active: SavedChanges) {
  const { wrong } = lines.value
  done.value = which.value.coming ? lookedAt : null
  const how = which.value.coming ? `saved. Policy version ${active.version} is active` : 'applied once to existing mail'
  adding.text = wrong.map(w => w.text).join('\n')
  which.value = allThatComes()
  work.tellSaved(active, { words: `List “${list.name}” ${how}.`, nothing: 'All of these entries are already on the list.' })
  emit('added')
}

function addedWords({ addedCount, size }: Added): string {
  const changed = list.rules.length ? `; this also changes ${rulesWords(list.rules)}` : ''
  return `List “${list.name}”: ${counted(size - addedCount, 'entry', 'entries')}, now ${numberWords(size)}${changed}.`
}

const looksLikeDomain = computed(
  () =>
    adding.as === '' &&
    adding.text.split(/\r?\n/).some((l) => {
      const bare = l.trim()
      return bare !== '' && (bare.startsWith('@') || !bare.includes('@'))
    }),
)

function begin() {
  const { good } = adding.as === '' ? readLines({ text: adding.text, below: adding.below }) : { good: [] }
  const found = good.filter(e => e.kind === 'network').map(e => e.value)
  networks.value = found.length < good.length ? found : []
  if (!networks.value.length) void add()
}
function addWithout() {
  const isNetwork = (line: string) => readLines({ text: line, below: false }).good[0]?.kind === 'network'
  adding.text = adding.text.split(/\r?\n|(?<=\S)\s*[,;]\s+/).filter(line => !isNetwork(line)).join('\n')
  void add()
}

// What is broad, or meant for mail that is here too, is asked about before; plain additions come with a report line by line.
async function add() {
  networks.value = []
  // Whether it affects much, or stopped mail comes back with it, has to be known of all mail.
  if (changes.value) await impact.settled()
  if (beyond.value && changes.value) return putting.put()
  const found = impact.impact.value
  if (changes.value && (movesHere(which.value, found) || !which.value.coming || found?.broad)) return addLooking()
  return addPlainly()
}

// Afterwards all of it would be on the list already; and what stood there while it was typed may be behind.
let lookedAt: PasteView | null = null
const addLooking = () =>
  submit(async () => {
    const { text, below, as } = adding
    lookedAt = await api.reportPaste(list.id, { text, below, ...(as ? { as } : {}) })
    await putting.put()
  })

const addPlainly = () =>
  submit(async () => {
    const body = {
      text: adding.text,
      below: adding.below,
      as: adding.as || undefined,
      note: adding.note || undefined,
      expires: adding.expires || undefined,
    }
    if (adding.text.length > LONG) await addMany(body)
    else tellAdded(await api.addEntries(list.id, body))
  })

/** From so many letters on it is told how far it is. */
const LONG = 100_000
async function addMany(body: object) {
  progress.value = { stage: 'reading', done: 0, total: 0 }
  try {
    await api.addManyEntries(list.id, body, (result) => {
      if ('stage' in result) progress.value = result
      else tellAdded(result)
    })
  }
  finally {
    progress.value = null
  }
}
const STAGES = { reading: 'Reading the lines', looking: 'Comparing with existing entries', writing: 'Saving' }
const progressWords = computed(() => {
  if (!progress.value) return ''
  const { stage, done: far, total } = progress.value
  const how = total ? `: ${numberWords(far)} of ${numberWords(total)}` : ''
  return `${STAGES[stage]}${how}… This continues if you leave the page.`
})

function tellAdded(result: Added & { eventId: number | null }) {
  done.value = result.report
  // What could not be read stays where it was written.
  adding.text = result.wrong.map(w => w.text).join('\n')
  if (!result.wrong.length) Object.assign(adding, { note: '', expires: '' })
  if (result.addedCount) notices.say(addedWords(result), result.eventId)
  emit('added')
}

/** A file of plain lines goes into the field, to be looked at; one of CSV knows its own kinds, notes and dates, and is added. */
async function readFile([file]: File[]) {
  if (!file) return
  const text = await file.text()
  if (/\.csv$/i.test(file.name) || file.type === 'text/csv') await submit(async () => tellAdded(await api.addFile(list.id, text)))
  else adding.text = text
}
watch(() => adding.text, (now) => {
  if (now && done.value && !done.value.counts['not understood']) done.value = null
})
</script>

<template>
  <form
    class="sheet add"
    @submit.prevent="begin"
  >
    <h2>Add</h2>
    <FormField
      label="Addresses or domains, one per line"
      :error="fields.text"
    >
      <el-input
        v-model="adding.text"
        type="textarea"
        :autosize="{ minRows: 4, maxRows: 12 }"
        placeholder="name@quayline.example&#10;@quayline.example"
        spellcheck="false"
      />
    </FormField>
    <SenderPicker @add="(_, chosenLines) => adding.text = appendedLines(adding.text, chosenLines)" />
    <label class="field">Type
      <ChoiceField
        v-model="adding.as"
        :options="TAKEN_FOR"
        label="Type"
        boxed
        :width="null"
      />
    </label>
    <el-checkbox
      v-if="looksLikeDomain"
      v-model="adding.below"
    >
      include subdomains
    </el-checkbox>
    <label class="field">Note <el-input
      v-model="adding.note"
      placeholder="reason, for colleagues"
    /></label>
    <label class="field">Expires <DayField
      v-model="adding.expires"
      label="Expires"
      :width="160"
    /></label>
    <div
      v-if="networks.length"
      class="ask small"
      role="alert"
    >
      <p>
        {{ networks.slice(0, 3).join(', ') }}{{ networks.length > 3 ? ` and ${networks.length - 3} more` : '' }}
        {{ plural(networks.length, 'is a network: it matches', 'are networks: they match') }} every message from there, for any sender.
      </p>
      <div class="actions">
        <PressButton @click="add">
          Add all
        </PressButton>
        <PressButton
          plain
          @click="addWithout"
        >
          Add without {{ plural(networks.length, 'the network', 'the networks') }}
        </PressButton>
        <PressButton
          plain
          @click="networks = []"
        >
          Cancel
        </PressButton>
      </div>
    </div>
    <SaveChanges
      v-if="changes && !networks.length"
      v-model="which"
      :of="impact"
      :putting
      :yours="`Add to list “${list.name}”: ${adding.text.trim().split('\n').slice(0, 3).join(', ')}`"
      :mine="isPersonal(list.owner)"
      :protects
      panel
      @load="putting.leave(); emit('added')"
    >
      <FormFoot
        :error="error || putting.error.value"
        :action="beyond ? 'Propose' : 'Add to list'"
        staying
      />
    </SaveChanges>
    <FormFoot
      v-else-if="!networks.length && !beyond"
      :error="error || putting.error.value"
      action="Add to list"
      staying
    />
    <AddedReport
      v-if="done ?? ahead"
      :report="(done ?? ahead)!"
      :done="done !== null"
    />
    <p
      v-if="progress"
      class="small"
      role="status"
    >
      {{ progressWords }}
    </p>
    <p
      v-if="!beyond"
      class="small second"
    >
      or a text or CSV file: <FileField
        label="Text or CSV file"
        accept=".csv,.txt,text/csv,text/plain"
        @choose="readFile"
      />
    </p>
  </form>
</template>

<style scoped>
.ask { border-left: 3px solid var(--warn); padding: 4px 12px; display: grid; gap: 6px; }
.add { min-width: 0; padding: 18px 22px; display: grid; grid-template-columns: minmax(0, 1fr); gap: 12px; justify-items: start; }
.add .field, .add :deep(.el-textarea), .add :deep(.el-input) { width: 100%; }
</style>
