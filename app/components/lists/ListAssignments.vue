<script setup lang="ts">
import isSame from 'fast-deep-equal'
import type { PolicyChange } from '#core/change'
import { isPersonal } from '#core/policy'
import { assignmentSentence, STATE_NAMES } from '#core/words'
import { counted, plural } from '#core/wording'
import { api, type AssignmentForm, type AssignmentView, type OpenedList, type SavedChanges } from '~/api/client'
import { useImpact } from '~/composables/impact'
import { useSaveChanges } from '~/composables/saveChanges'
import { allThatComes, existingOf, type Which } from '~/composables/whichMail'

/** The assignments of a list, as sentences; their owner can change them and add more. */
const { list } = defineProps<{ list: OpenedList }>()
const emit = defineEmits<{ changed: [] }>()
const directory = useDirectoryStore()
const session = useSessionStore()
const notices = useNoticeStore()
const work = useJobStore()
const which = ref<Which>(allThatComes())
/** Which assignment is being changed; "new" for one more. */
const editing = ref<AssignmentView | 'new' | null>(null)
const owner = ref('')
const assignment = ref<AssignmentForm | null>(null)

// Somebody's own list serves them alone.
const owners = computed(() => (directory.data?.owners ?? []).filter(o => !isPersonal(list.owner) || o.id === list.owner))

function beginNew() {
  const personal = `person:${session.person?.id}`
  owner.value = (owners.value.find(o => o.id === list.owner) ?? owners.value.find(o => o.id === personal) ?? owners.value[0])?.id ?? ''
  assignment.value = list.usualSide === 'allow'
    ? { side: 'allow', state: 'enabled' }
    : { side: 'block', state: 'enabled', stop: { to: 'spam' } }
  begin('new')
}

function beginChange(line: AssignmentView) {
  const { side, state, mandatory, direction, stop, protect, counts } = line
  owner.value = line.owner
  assignment.value = { side, state, mandatory, direction, stop, protect, counts }
  begin(line)
}

function begin(what: AssignmentView | 'new') {
  putting.begin(what === 'new' ? 0 : what.version)
  which.value = allThatComes()
  editing.value = what
  opened.value = changes.value
}

/** The use as it is put; null while none is being made. */
const changes = computed<PolicyChange[] | null>(() => {
  const now = editing.value
  if (!now || !assignment.value || assignment.value.protect?.length === 0) return null
  const value = { ...assignment.value, list: list.id, owner: owner.value, ...(now === 'new' ? {} : { id: now.id }) }
  return [{ type: 'put', kind: 'assignment', value }]
})
const opened = ref<PolicyChange[] | null>(null)
// As long as nothing is changed there is nothing to look for.
const impact = useImpact(() => (editing.value !== 'new' && isSame(changes.value, opened.value) ? null : changes.value))
const protects = computed(() => assignment.value?.side === 'allow')
const putting = useSaveChanges(
  () => ({ changes: changes.value!, coming: which.value.coming, existing: existingOf(which.value, protects.value, impact.impact.value) }),
  putIn,
  undefined,
  { ready: () => impact.settledFor(which.value) },
)
const { error } = putting
const fields = computed(() => {
  const said = Object.entries(putting.fields.value)
  return Object.fromEntries(said.map(([name, text]) => [name.startsWith('assignment.') ? name : `assignment.${name}`, text]))
})
const sentence = computed(() => {
  if (!assignment.value) return ''
  return assignmentSentence({ ...assignment.value, owner: owner.value }, directory.names, directory.ownerName(owner.value))
})

const save = () => putting.put(assignment.value?.protect?.length === 0 ? { protect: 'Choose what the senders are allowed despite.' } : {})
function putIn(active: SavedChanges) {
  const words = which.value.coming ? `Assignment saved. Policy version ${active.version} is active.` : 'Applied once to existing mail.'
  done(active, words)
}
function watchFirst() {
  assignment.value = { ...assignment.value!, state: 'monitor' }
  which.value = allThatComes()
  putting.leave()
  void save()
}
async function end(line: AssignmentView) {
  try {
    const { eventId } = await api.removeAssignment(line.id, line.version)
    done({ eventId, job: null }, `Assignment of list “${list.name}” removed. The list and its entries remain.`)
  }
  catch (e) {
    notices.failed(e)
  }
}

function done(active: Pick<SavedChanges, 'eventId' | 'job'>, words: string) {
  editing.value = null
  work.tellSaved(active, { words, nothing: 'Nothing to save: the assignment is unchanged.' })
  emit('changed')
}
</script>

<template>
  <div class="assignments">
    <template
      v-for="b in list.assignments"
      :key="b.id"
    >
      <p v-if="editing === null || editing === 'new' || editing.id !== b.id">
        {{ b.sentence }}<template v-if="b.state !== 'enabled'">
          ({{ STATE_NAMES[b.state] }})
        </template>
        <PressButton
          v-if="b.canChange && editing === null"
          plain
          small
          @click="beginChange(b)"
        >
          Edit
        </PressButton>
        <NuxtLink
          v-if="b.canChange && editing === null && b.side === 'block' && b.state !== 'monitor'"
          class="small"
          :to="{ path: '/return-mail', query: { kind: 'list', id: b.id } }"
        >
          Return the mail that this list stopped…
        </NuxtLink>
      </p>
      <form
        v-else
        @submit.prevent="save"
      >
        <AssignmentFields
          v-model="assignment"
          :owner="b.owner"
          :fields
        />
        <SaveChanges
          v-model="which"
          :of="impact"
          :putting
          :yours="sentence"
          :mine="isPersonal(owner)"
          :protects
          :watchable="assignment?.state === 'enabled'"
          panel
          @watch="watchFirst"
          @load="editing = null; emit('changed')"
        >
          <FormFoot
            :error
            @leave="editing = null"
          >
            <SureDelete
              label="Remove assignment"
              question="Remove this assignment? The list and its entries remain."
              action="Remove"
              @sure="end(b)"
            />
          </FormFoot>
        </SaveChanges>
      </form>
    </template>
    <p
      v-if="!list.assignments.length"
      class="second"
    >
      No assignment: the list has no effect except in rules.
    </p>
    <p
      v-if="list.rules.length || list.assignedByOthers"
      class="second small"
    >
      <template v-if="list.rules.length">
        Used in {{ rulesWords(list.rules) }}.
      </template>
      <template v-if="list.assignedByOthers">
        {{ counted(list.assignedByOthers, 'user') }} {{ plural(list.assignedByOthers, 'has', 'have') }} personal assignments of it.
      </template>
    </p>
    <form
      v-if="editing === 'new'"
      @submit.prevent="save"
    >
      <label class="for">Owner <WhoseSelect
        v-model="owner"
        :among="owners"
      /></label>
      <AssignmentFields
        v-model="assignment"
        :owner
        :fields
      />
      <SaveChanges
        v-model="which"
        :of="impact"
        :putting
        :yours="sentence"
        :mine="isPersonal(owner)"
        :protects
        :watchable="assignment?.state === 'enabled'"
        panel
        @watch="watchFirst"
        @load="editing = null; emit('changed')"
      >
        <FormFoot
          :error
          @leave="editing = null"
        />
      </SaveChanges>
    </form>
    <PressButton
      v-else-if="owners.length && editing === null"
      plain
      small
      @click="beginNew"
    >
      + Add assignment
    </PressButton>
  </div>
</template>

<style scoped>
.assignments { display: grid; gap: 2px; justify-items: start; padding: 0 22px 10px; }
.assignments > .press { margin-left: -6px; }
form {
  display: grid;
  gap: 10px;
  justify-items: start;
  padding: 10px 0 12px;
  border-block: 1px solid var(--hairline);
  width: 100%;
  margin: 4px 0;
}
.for { display: flex; gap: 10px; align-items: center; }
</style>
