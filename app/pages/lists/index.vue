<script setup lang="ts">
import type { PolicyChange } from '#core/change'
import { readLines } from '#core/kinds'
import { isPersonal } from '#core/policy'
import { counted, numberWords, plural } from '#core/wording'
import { api, type AssignmentForm, type SavedChanges } from '~/api/client'
import { MAX_SIMULATED, useImpact } from '~/composables/impact'
import { leaveLines } from '~/composables/leftLines'
import { newId } from '~/composables/newId'
import { usePasteReport } from '~/composables/pasteReport'
import { useSaveChanges } from '~/composables/saveChanges'
import { allThatComes, existingOf, type Which } from '~/composables/whichMail'

definePageMeta({ title: 'Lists' })

const notices = useNoticeStore()
const session = useSessionStore()
const directory = useDirectoryStore()
const { data: lists, failure, load } = useReading(async () => (await api.lists()).items)
const { data: sets, load: loadSets } = useReading(async () => (await api.phraseSets()).items)
afterUndo(() => Promise.all([load(), loadSets()]))
const makingSet = ref(false)
const { error, fields, submit } = useForm()
const making = ref(false)
useUnsaved(() => making.value && (form.name.trim() !== '' || form.entries.trim() !== ''))
const form = reactive({ name: '', owner: '', entries: '', below: false })
const assignment = ref<AssignmentForm | null>({ side: 'block', state: 'enabled', stop: { to: 'spam' } })

// Default deny: all senders are blocked who are not on that list.
const route = useRoute()
watch(lists, (now) => {
  const but = now?.find(l => l.id === route.query.everyoneBut)
  if (!but || making.value) return
  Object.assign(form, { name: `All senders not on ${but.name}`, owner: but.owner, entries: 'everyone', below: false })
  assignment.value = {
    side: 'block',
    state: 'monitor',
    stop: isPersonal(but.owner) ? { to: 'spam' } : { to: 'quarantine', quarantine: 'general' },
  }
  making.value = true
})

// Closed by hand or by a link, it begins on trial.
watch(
  () => form.entries.trim() === 'everyone',
  (closing) => {
    if (closing && assignment.value?.side === 'block') assignment.value = { ...assignment.value, state: 'monitor' }
  },
)

/** Allow lists of the organisation whose senders a default deny of one’s own would block: one’s own lists come first. */
const shutOut = computed(() => {
  if (form.entries.trim() !== 'everyone' || !isPersonal(form.owner)) return ''
  const enabled = (lists.value ?? []).filter(l => l.enabled && l.size)
  const above = enabled.filter(l => l.assignments.some(b => b.side === 'allow' && b.state === 'enabled' && !isPersonal(b.owner)))
  return above.map(l => `“${l.name}” (${numberWords(l.size)})`).join(', ')
})

function begin() {
  Object.assign(form, {
    name: '',
    owner: directory.data?.owners[0]?.id ?? `person:${session.person?.id}`,
    entries: '',
    below: false,
  })
  which.value = allThatComes()
  putting.begin()
  making.value = true
}

const work = useJobStore()
const which = ref<Which>(allThatComes())
let id = newId()
const ahead = usePasteReport(
  () => ({ owner: form.owner, side: assignment.value?.side ?? 'block' }),
  () => ({ text: form.entries, below: form.below }),
)
const lines = computed(() => readLines({ text: form.entries, below: form.below }))
/** The list with its entries and its use; null while it would catch nothing, or there is too much to look through. */
const changes = computed<PolicyChange[] | null>(() => {
  const chosen = assignment.value
  if (!making.value || !chosen || chosen.protect?.length === 0) return null
  const { good } = lines.value
  if (!good.length || good.length > MAX_SIMULATED) return null
  const list = { id, name: form.name.trim() || 'New list', owner: form.owner, usualSide: chosen.side, enabled: true }
  return [
    { type: 'put', kind: 'list', value: list },
    { type: 'put', kind: 'entries', list: id, entries: good },
    { type: 'put', kind: 'assignment', value: { ...chosen, list: id, owner: form.owner } },
  ]
})
const impact = useImpact(() => changes.value)
const protects = computed(() => assignment.value?.side === 'allow')
const putting = useSaveChanges(
  () => ({ changes: changes.value!, coming: which.value.coming, existing: existingOf(which.value, protects.value, impact.impact.value) }),
  putIn,
  undefined,
  { ready: () => impact.settledFor(which.value) },
)
const wrongs = computed(() => ({ ...fields.value, ...putting.fields.value }))

function savedWords(added: number, wrong: readonly { text: string }[]): string {
  const stay = plural(wrong.length, 'is', 'are')
  const lost = wrong.length ? ` ${counted(wrong.length, 'line')} could not be read and ${stay} in the field to correct.` : ''
  return `List “${form.name}” saved with ${counted(added, 'entry', 'entries')}.${lost}`
}

async function putIn(active: SavedChanges) {
  const words = which.value.coming
    ? savedWords(lines.value.good.length, lines.value.wrong)
    : `List “${form.name}” is applied once to existing mail and not saved.`
  making.value = false
  await directory.load()
  work.tellSaved(active, { words })
  if (which.value.coming) {
    leaveLines(id, lines.value.wrong)
    await navigateTo(`/lists/${id}`)
  }
  id = newId()
}
function watchFirst() {
  assignment.value = { ...assignment.value!, state: 'monitor' }
  which.value = allThatComes()
  putting.leave()
  void putting.put()
}

function make() {
  if (!changes.value) return makePlainly()
  return putting.put(form.name.trim() ? {} : { name: 'Enter a name for the list.' })
}
const makePlainly = () =>
  submit(async () => {
    const made = await api.makeList({
      ...form,
      usualSide: assignment.value?.side ?? 'block',
      enabled: true,
      assignment: assignment.value,
    })
    making.value = false
    await directory.load()
    notices.say(
      savedWords(made.addedCount, made.wrong),
      made.eventId,
    )
    leaveLines(made.id, made.wrong)
    await navigateTo(`/lists/${made.id}`)
  })
</script>

<template>
  <div class="page">
    <div class="page-top">
      <div>
        <h1>Lists</h1>
        <p class="second">
          Senders to block or to allow. A list takes effect by its <WordHelp
            word="assignments"
            term="assignment"
          />, or in rules that refer to it.
        </p>
      </div>
      <PressButton
        v-if="!making"

        first
        @click="begin"
      >
        New list
      </PressButton>
    </div>
    <form
      v-if="making"
      class="sheet making"
      @submit.prevent="make"
    >
      <h2>New list</h2>
      <p
        v-if="form.entries.trim() === 'everyone'"
        class="small second"
      >
        <WordHelp
          word="Default deny"
          term="defaultDeny"
        />: all senders are blocked who are not on an allow list of the same owner. It starts in “monitor only”: it
        records which messages it would stop, and stops none until you enable it.
      </p>
      <p
        v-if="shutOut"
        class="small warn"
      >
        Your own lists come before the organisation’s: once enabled, it also blocks senders on {{ shutOut }}, unless they are on one
        of your own allow lists.
      </p>
      <div class="pair">
        <FormField
          label="Name"
          :error="wrongs.name"
        >
          <el-input
            v-model="form.name"
            autofocus
            style="width: 260px"
          />
        </FormField>
        <label class="field">Owner
          <WhoseSelect v-model="form.owner" /></label>
      </div>
      <AssignmentFields
        v-model="assignment"
        optional
        :owner="form.owner"
        :fields="wrongs"
      />
      <label class="field">Entries, one per line
        <el-input
          v-model="form.entries"
          type="textarea"
          :rows="4"
          placeholder="name@quayline.example&#10;@quayline.example for the whole domain"
          spellcheck="false"
        />
      </label>
      <SenderPicker @add="(_, chosenLines) => form.entries = appendedLines(form.entries, chosenLines)" />
      <el-checkbox v-model="form.below">
        include subdomains
      </el-checkbox>
      <AddedReport
        v-if="ahead"
        :report="ahead"
        :done="false"
      />
      <SaveChanges
        v-if="changes"
        v-model="which"
        :of="impact"
        :putting
        :yours="`List “${form.name}”`"
        :mine="isPersonal(form.owner)"
        :protects
        :watchable="assignment?.state === 'enabled'"
        panel
        @watch="watchFirst"
        @load="putting.leave()"
      >
        <FormFoot
          :error="putting.error.value"
          @leave="making = false"
        />
      </SaveChanges>
      <FormFoot
        v-else
        :error
        @leave="making = false"
      />
    </form>
    <p
      v-if="directory.data && !directory.data.authenticator"
      class="small second"
    >
      Senders cannot be verified at present. Allow lists that count only verified senders have no effect.
    </p>
    <ReadingState
      :failure
      :ready="lists !== null"
      what="the lists"
      @again="load"
    />
    <div
      v-if="lists?.length === 0"
      class="sheet making"
    >
      <h2>No lists yet</h2>
      <p class="second">
        Start with an address that is always allowed, or a domain that is always blocked.
      </p>
      <PressButton
        @click="begin"
      >
        Create the first list
      </PressButton>
    </div>
    <ListTable
      v-if="lists?.length"
      :lists
    >
      <EntryFinder v-if="!making" />
    </ListTable>
    <section>
      <h2 class="whose">
        <WordHelp
          word="Phrase sets"
          term="phraseSet"
        />
      </h2>
      <p class="second small">
        Words and phrases that several rules use. A change of a set changes all these rules.
      </p>
      <ul class="sets">
        <li
          v-for="s in sets ?? []"
          :key="`${s.id} ${s.version}`"
        >
          <PhraseSetCard
            :set="s"
            @done="loadSets"
          />
        </li>
        <li>
          <PhraseSetCard
            v-if="makingSet"
            :owner="directory.data?.owners[0]?.id"
            @done="makingSet = false; loadSets()"
          />
          <PressButton
            v-else
            plain
            @click="makingSet = true"
          >
            + Add phrase set
          </PressButton>
        </li>
      </ul>
    </section>
  </div>
</template>

<style scoped>
.sets li { border: 0; padding: 0; background: none; }
.making { padding: 18px 22px; display: grid; gap: 12px; justify-items: start; }
.making :deep(.el-textarea) { width: min(560px, 80vw); }
.pair { display: flex; gap: 20px; flex-wrap: wrap; }
.whose { margin: 8px 0 8px; }
ul { list-style: none; margin: 0; padding: 0; display: grid; grid-template-columns: repeat(auto-fill, minmax(290px, 1fr)); gap: 12px; }
li { padding: 14px 16px; display: grid; gap: 5px; align-content: start; }
</style>
