<script setup lang="ts">
import type { PolicyChange } from '#core/change'
import { isPersonal } from '#core/policy'
import { counted } from '#core/wording'
import { api, type OpenedList, type SavedChanges } from '~/api/client'
import { useImpact } from '~/composables/impact'
import { useSaveChanges } from '~/composables/saveChanges'
import { allThatComes, existingOf, type Which } from '~/composables/whichMail'

/** A copy of a list for another owner, with its impact before it is saved. */
const { list } = defineProps<{ list: OpenedList }>()
const emit = defineEmits<{ leave: [] }>()
const directory = useDirectoryStore()
const notices = useNoticeStore()
const work = useJobStore()
const others = computed(() => (directory.data?.owners ?? []).filter(o => o.id !== list.owner))
const owner = ref(others.value[0]?.id ?? '')
const changes = shallowRef<PolicyChange[] | null>(null)
const failure = ref('')
watch(owner, async (to) => {
  changes.value = null
  failure.value = ''
  if (!to) return
  try {
    const made = await api.listCopy(list.id, to)
    if (owner.value === to) changes.value = made.changes
  }
  catch (e) {
    if (owner.value === to) failure.value = e instanceof Error ? e.message : String(e)
  }
}, { immediate: true })

const which = ref<Which>(allThatComes())
const protects = computed(() => list.assignments.length > 0 && list.assignments.every(b => b.side === 'allow'))
const impact = useImpact(() => changes.value)
const ownerName = computed(() => directory.ownerName(owner.value))
const putting = useSaveChanges(
  () => ({
    changes: changes.value!,
    coming: which.value.coming,
    existing: existingOf(which.value, protects.value, impact.impact.value),
  }),
  done,
  undefined,
  { ready: () => impact.settledFor(which.value) },
)
async function done(saved: SavedChanges) {
  await directory.load()
  work.tellSaved(saved, { words: `List “${list.name}” copied to ${ownerName.value}.` })
  const made = changes.value?.find(c => c.type === 'put' && c.kind === 'list')
  if (which.value.coming && made?.type === 'put' && made.kind === 'list') await navigateTo(`/lists/${made.value.id}`)
  else emit('leave')
}
const save = () => (changes.value ? putting.put() : notices.failed(failure.value || 'Choose for whom the copy is.'))
</script>

<template>
  <form
    class="copy"
    aria-label="Copy list"
    @submit.prevent="save"
  >
    <p class="row">
      <span>Copy {{ counted(list.size, 'entry', 'entries') }} and the assignments of this list to</span>
      <WhoseSelect
        v-model="owner"
        :among="others"
      />
    </p>
    <p class="second small">
      The copy is a list of its own: later changes of one do not change the other. To share one list, add an assignment instead.
    </p>
    <p
      v-if="failure"
      class="wrong"
      role="alert"
    >
      {{ failure }}
    </p>
    <SaveChanges
      v-if="changes"
      v-model="which"
      :of="impact"
      :putting
      :yours="`Copy of list “${list.name}” for ${ownerName}`"
      :mine="isPersonal(owner)"
      :protects
      panel
      @load="putting.leave()"
    >
      <FormFoot
        :error="putting.error.value"
        action="Save copy"
        @leave="emit('leave')"
      />
    </SaveChanges>
    <FormFoot
      v-else
      :error="''"
      action="Save copy"
      @leave="emit('leave')"
    />
  </form>
</template>

<style scoped>
.copy {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 8px;
  align-content: start;
  justify-items: start;
  min-height: 0;
  overflow-y: auto;
  border-top: 1px solid var(--hairline);
  padding: 12px 22px;
}
.row { display: flex; flex-wrap: wrap; gap: 8px; align-items: center; }
</style>
