<script setup lang="ts">
import { useDebounceFn, useInfiniteScroll } from '@vueuse/core'
import { entryWords } from '#core/words'
import { counted, numberWords } from '#core/wording'
import { api, type EntryView, type OpenedList } from '~/api/client'

const route = useRoute()
const notices = useNoticeStore()
const directory = useDirectoryStore()
const id = String(route.params.id)
const list = ref<OpenedList | null>(null)
useHead({ title: () => list.value?.name ?? 'List' })
const entries = ref<EntryView[]>([])
const words = ref('')
/** The part of the audit log that changed this list, in place of its entries. */
const showsHistory = ref(false)
const chosen = ref(new Set<string>())
const { error, fields, submit } = useForm()
const editing = ref(false)
const copying = ref(false)
const copyable = computed(() => (directory.data?.owners ?? []).some(o => o.id !== list.value?.owner))
const edit = reactive({ name: '', enabled: true, usualSide: 'block' as 'allow' | 'block' })
const SIDES = [{ value: 'block', name: 'block list' }, { value: 'allow', name: 'allow list' }] as const
const table = ref<HTMLElement | null>(null)

const { failure, load, more } = usePagedReading<OpenedList>({
  first: () => api.list(id, { words: words.value }),
  next: () => (list.value?.next ? api.list(id, { words: words.value, after: list.value.next }) : null),
  show(found) {
    list.value = found
    entries.value = found.entries
    // What was chosen stays chosen as long as it is shown.
    chosen.value = new Set([...chosen.value].filter(c => found.entries.some(e => e.id === c)))
  },
  append(page) {
    entries.value.push(...page.entries)
    list.value!.next = page.next
  },
})
onMounted(load)
afterUndo(load)
const search = useDebounceFn(load, 200)
useInfiniteScroll(table, more, { distance: 200, canLoadMore: () => Boolean(list.value?.next) })

async function reload() {
  await Promise.all([load(), directory.load()])
}

function beginEdit() {
  const l = list.value!
  Object.assign(edit, { name: l.name, on: l.enabled, usualSide: l.usualSide })
  editing.value = true
}

const save = () => submit(async () => {
  const { eventId } = await api.changeList(id, { ...edit, version: list.value!.version })
  editing.value = false
  notices.say(`List “${edit.name}” saved.`, eventId)
  await reload()
})

const deletion = computed(() => {
  const { name = '', size = 0, assignments = [], assignedByOthers = 0 } = list.value ?? {}
  const assigned = assignments.length + assignedByOthers ? ' and its assignments' : ''
  return `Delete list “${name}” with its ${counted(size, 'entry', 'entries')}${assigned}?`
})

async function remove() {
  try {
    const { eventId } = await api.removeList(id, list.value!.version)
    notices.say(`List “${list.value!.name}” deleted.`, eventId)
    await directory.load()
    await navigateTo('/lists')
  }
  catch (e) {
    notices.failed(e)
  }
}

function toggle(entry: string) {
  const now = new Set(chosen.value)
  if (!now.delete(entry)) now.add(entry)
  chosen.value = now
}
</script>

<template>
  <div
    v-if="failure && !list"
    class="wrong"
    role="alert"
  >
    {{ failure }} <NuxtLink to="/lists">
      Back to lists
    </NuxtLink>
  </div>
  <p
    v-else-if="!list"
    class="second"
  >
    Loading the list…
  </p>
  <div
    v-else
    class="list"
  >
    <section class="sheet main">
      <div class="top">
        <div class="whole">
          <h1>{{ list.name }}</h1>
          <p class="second small">
            {{ list.ownerName === 'organisation' ? 'for the whole organisation' : `for ${list.ownerName}` }} ·
            {{ counted(list.size, 'entry', 'entries') }}<template v-if="!list.enabled">
              · disabled
            </template>
          </p>
        </div>
        <div
          v-if="!editing"
          class="actions"
        >
          <PressButton
            plain
            :aria-pressed="showsHistory"
            @click="showsHistory = !showsHistory"
          >
            History
          </PressButton>
          <NuxtLink
            v-if="list.canChange && list.assignments.some(b => b.side === 'allow')"
            class="press plain"
            :to="{ path: '/lists', query: { everyoneBut: id } }"
          >
            Block all other senders…
          </NuxtLink>
          <PressButton
            v-if="copyable"
            plain
            @click="copying = !copying"
          >
            {{ directory.data && directory.data.departments.length ? 'Copy to another department…' : 'Copy to another owner…' }}
          </PressButton>
          <PressButton
            v-if="list.canChange"
            @click="beginEdit"
          >
            Edit list
          </PressButton>
        </div>
      </div>
      <ListAssignments
        :list
        @changed="reload"
      />
      <CopyList
        v-if="copying"
        :key="list.seen"
        :list
        @leave="copying = false"
      />
      <form
        v-if="editing"
        class="edit"
        @submit.prevent="save"
      >
        <FormField
          label="Name"
          :error="fields.name"
        >
          <el-input
            v-model="edit.name"
            style="width: 280px"
          />
        </FormField>
        <label class="field">Type
          <ChoiceField
            v-model="edit.usualSide"
            :options="SIDES"
            label="Type"
          />
        </label>
        <el-checkbox v-model="edit.enabled">
          enabled
        </el-checkbox>
        <p
          v-if="!edit.enabled && list.rules.length"
          class="small warn"
        >
          While disabled it neither blocks nor allows any sender, also in {{ rulesWords(list.rules) }}.
        </p>
        <FormFoot
          :error
          @leave="editing = false"
        >
          <SureDelete
            label="Delete list"
            :question="deletion"
            @sure="remove"
          />
        </FormFoot>
      </form>
      <div
        v-if="list.findings.length"
        class="findings"
        tabindex="0"
        role="group"
        aria-label="Findings"
      >
        <div
          v-for="f in list.findings"
          :key="`${f.clause.entry} ${f.kind}`"
          class="small"
        >
          <FindingNotes
            :findings="[f]"
            :can-fix="list.canChange"
            @fixed="reload"
          />
          <PressButton
            v-if="list.canChange && f.clause.entry && !chosen.has(f.clause.entry)"
            plain
            small
            @click="toggle(f.clause.entry)"
          >
            Select entry
          </PressButton>
        </div>
        <p
          v-if="list.findingsInAll > list.findings.length"
          class="second small"
        >
          and {{ numberWords(list.findingsInAll - list.findings.length) }} more
        </p>
      </div>
      <ClauseHistory
        v-if="showsHistory"
        :key="list.seen"
        class="history"
        :list="id"
      />
      <div
        v-show="!showsHistory && !copying"
        class="bar"
      >
        <el-input
          v-model="words"
          class="line-field"
          style="width: 240px"
          placeholder="search entries"
          aria-label="Search entries"
          clearable
          @input="search"
        />
        <span class="second small">{{ numberWords(list.matching) }} shown</span>
        <span class="small">
          Export as <a :href="`/api/lists/${id}/file?as=csv`">CSV</a>
          or <a :href="`/api/lists/${id}/file?as=lines`">plain lines</a>
        </span>
        <ChosenEntries
          v-if="chosen.size"
          :key="[...chosen].join()"
          :list="id"
          :name="list.name"
          :seen="list.seen"
          :used="list.assignments.length + list.rules.length > 0"
          :entries="entries.filter(e => chosen.has(e.id))"
          @changed="reload"
        />
      </div>
      <div
        v-show="!showsHistory && !copying"
        ref="table"
        class="table"
        tabindex="0"
        aria-label="Entries"
        role="region"
      >
        <p
          v-if="failure"
          class="wrong small"
          role="alert"
        >
          {{ failure }}
        </p>
        <table>
          <thead class="second small">
            <tr>
              <th v-if="list.canChange" /><th>Entry</th><th>Note</th><th class="wide">
                Added
              </th><th>Expires</th><th class="n">
                Matches
              </th><th class="wide">
                Last match
              </th>
            </tr>
          </thead>
          <tbody>
            <tr
              v-for="e in entries"
              :key="e.id"
              :class="{ expired: e.expired }"
            >
              <td v-if="list.canChange">
                <input
                  type="checkbox"
                  :checked="chosen.has(e.id)"
                  :aria-label="`Select ${entryWords(e)}`"
                  @change="toggle(e.id)"
                >
              </td>
              <td
                class="mono"
                :title="e.value"
              >
                {{ cutMiddle(entryWords(e), 44) }}
              </td>
              <td class="second small">
                {{ e.note }}
              </td>
              <td class="second small wide">
                {{ e.addedAt ? shortWhen(e.addedAt) : '' }}{{ e.addedBy ? `, ${e.addedBy}` : '' }}
              </td>
              <td class="small">
                {{ e.expires ? (e.expired ? 'expired ' : '') + shortWhen(e.expires) : '' }}
              </td>
              <td class="n numbers">
                {{ numberWords(e.hits) }}<span class="second marked"><MarkCounts
                  v-bind="e.marked"
                  short
                  :blocks="list.usualSide === 'block'"
                /></span>
              </td>
              <td class="second small wide">
                {{ e.lastHit ? shortWhen(e.lastHit) : 'never' }}
              </td>
            </tr>
          </tbody>
        </table>
        <p
          v-if="!entries.length"
          class="second none"
        >
          {{ words ? 'No matching entries.' : 'No entries yet.' }}
        </p>
      </div>
    </section>
    <AddEntries
      v-if="list.canChange || directory.isBeyond(list.owner)"
      :list
      @added="reload"
    />
    <p
      v-else
      class="second small add"
    >
      This list belongs to {{ list.ownerName === 'organisation' ? 'the organisation' : list.ownerName }}. You can read it and assign
      it to yourself; only an administrator can change it.
    </p>
  </div>
</template>

<style scoped>
.history { flex: 1; min-height: 0; overflow: auto; padding: 4px 22px 18px; align-content: start; border-top: 1px solid var(--hairline); }
.list {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 320px;
  grid-template-rows: minmax(0, 1fr);
  gap: 18px;
  align-items: start;
  flex: 1;
  min-height: 460px;
}
.main { display: flex; flex-direction: column; min-height: 0; max-height: 100%; }
.top { display: flex; justify-content: space-between; align-items: start; gap: 20px; padding: 18px 22px 2px; }
.whole { flex: 1; min-width: 0; }
.edit { display: grid; gap: 12px; padding: 4px 22px 16px; border-bottom: 1px solid var(--hairline); justify-items: start; }
.findings { margin: 0 22px 8px; display: grid; gap: 4px; max-height: 40vh; overflow: auto; }
.top .actions { flex: none; justify-content: flex-end; }
.bar { flex: none; display: flex; flex-wrap: wrap; gap: 8px 14px; align-items: center; padding: 4px 22px 8px; min-height: 44px; }
.table { overflow: auto; flex: 1; min-height: 0; border-top: 1px solid var(--hairline); }
table { width: 100%; border-collapse: collapse; font-size: 14px; }
th {
  text-align: left;
  font-weight: 400;
  padding: 6px 10px;
  position: sticky;
  top: 0;
  background: var(--sheet);
  border-bottom: 1px solid var(--hairline);
}
.marked { display: block; font: 12px/1.2 var(--text); white-space: nowrap; }
td { padding: 6px 10px; border-bottom: 1px solid var(--hairline); vertical-align: baseline; }
th:first-child, td:first-child { padding-left: 22px; }
.n { text-align: right; }
.expired td { color: var(--ink-2); text-decoration: line-through; }
.none { padding: 30px 22px; }
.add { padding: 18px 22px; display: grid; gap: 12px; justify-items: start; }
.add .field, .add :deep(.el-textarea), .add :deep(.el-input) { width: 100%; }
input[type='checkbox'] { accent-color: var(--water); }
@media (max-width: 640px) { .wide { display: none; } }
@media (max-width: 980px) { .list { grid-template-columns: minmax(0, 1fr); height: auto; } }
</style>
