<script setup lang="ts">
import type { PolicyChange } from '#core/change'
import { isPersonal, phraseText } from '#core/policy'
import { counted, numberWords } from '#core/wording'
import { api, type PhraseSetView, type SavedChanges } from '~/api/client'
import { useImpact } from '~/composables/impact'
import { useSaveChanges } from '~/composables/saveChanges'
import { allThatComes, existingOf, type Which } from '~/composables/whichMail'

/** A phrase set to read, and to edit: one phrase a line, its weight behind a tab or "×". */
const { set = null, owner = 'organisation' } = defineProps<{ set?: PhraseSetView | null, owner?: string }>()
const emit = defineEmits<{ done: [] }>()
const directory = useDirectoryStore()
const { error, fields, submit } = useForm()
const editing = ref(set === null)
const form = reactive({
  name: set?.name ?? '',
  text: writtenPhrases(set?.phrases ?? []),
  minimum: set?.minimum === undefined ? '' : String(set.minimum),
})

const written = writtenPhrases(set?.phrases ?? [])
useUnsaved(() => editing.value && (form.text !== written || form.name !== (set?.name ?? '')))

const body = () => ({
  name: form.name,
  owner: set?.owner ?? owner,
  phrases: readPhrases(form.text, set?.phrases),
  ...(Number(form.minimum) > 0 ? { minimum: Number(form.minimum) } : {}),
})
const work = useJobStore()
const which = ref<Which>(allThatComes())
const changed = computed(() => form.text !== written || form.minimum !== (set?.minimum === undefined ? '' : String(set.minimum)))
/** The set as it is put; null where no rule looks for it, so that nothing follows. */
const changes = computed<PolicyChange[] | null>(() =>
  editing.value && set?.rules.length && changed.value ? [{ type: 'put', kind: 'phraseSet', value: { ...body(), id: set.id } }] : null)
const impact = useImpact(() => changes.value)
const putting = useSaveChanges(
  () => ({ changes: changes.value!, coming: which.value.coming, existing: existingOf(which.value, false, impact.impact.value) }),
  saved,
  undefined,
  { ready: () => impact.settledFor(which.value) },
)
const save = () => (changes.value ? putting.put() : savePlainly())
const savePlainly = () =>
  submit(async () => {
    const { eventId } = set ? await api.changePhraseSet(set.id, { ...body(), version: set.version }) : await api.makePhraseSet(body())
    await saved({ eventId, job: null })
  })

async function saved(active: Pick<SavedChanges, 'eventId' | 'job'>) {
  const too = set?.rules.length ? `, also in ${rulesWords(set.rules)}` : ''
  work.tellSaved(active, { words: `Phrase set “${form.name}” saved${too}.` })
  editing.value = false
  await directory.load()
  emit('done')
}
</script>

<template>
  <form
    class="sheet card"
    @submit.prevent="save"
  >
    <template v-if="editing">
      <FormField
        label="Name"
        :error="fields.name"
      >
        <el-input v-model="form.name" />
      </FormField>
      <FormField
        label="Phrases, one per line; ×3 after a phrase scores 3"
        :error="fields.phrases"
      >
        <el-input
          v-model="form.text"
          type="textarea"
          :autosize="{ minRows: 3, maxRows: 12 }"
          aria-label="Phrases of the set"
        />
      </FormField>
      <label class="field">Minimum score <el-input
        v-model="form.minimum"
        placeholder="any one phrase"
      /></label>
      <p
        v-if="set?.rules.length"
        class="small second"
      >
        Also changes {{ set.rules.join(', ') }} too.
      </p>
      <SaveChanges
        v-if="changes"
        v-model="which"
        :of="impact"
        :putting
        :yours="`Phrase set “${form.name}” changed`"
        :mine="isPersonal(set?.owner ?? owner)"
        panel
        @load="editing = false; emit('done')"
      >
        <FormFoot
          :error="error || putting.error.value"
          @leave="editing = false; emit('done')"
        />
      </SaveChanges>
      <FormFoot
        v-else
        :error="error || putting.error.value"
        @leave="editing = false; emit('done')"
      />
    </template>
    <template v-else-if="set">
      <h3>{{ set.name }}</h3>
      <p class="small">
        {{ counted(set.phrases.length, 'phrase') }}{{ set.minimum === undefined ? '' : `, minimum score ${numberWords(set.minimum)}` }}
      </p>
      <p class="second small">
        {{ set.phrases.slice(0, 4).map(phraseText).join(', ') }}{{ set.phrases.length > 4 ? ', …' : '' }}
      </p>
      <p class="second small">
        {{ set.rules.length ? `Used in ${rulesWords(set.rules)}.` : 'Not used in any rule yet.' }}
      </p>
      <FindingNotes
        :findings="set.findings"
        :can-fix="set.canChange"
        @fixed="emit('done')"
      />
      <SetStats :set />
      <PressButton
        v-if="set.canChange"
        plain
        @click="editing = true; putting.begin(set.version)"
      >
        Edit
      </PressButton>
    </template>
  </form>
</template>

<style scoped>
.card { padding: 14px 16px; display: grid; gap: 6px; align-content: start; justify-items: start; }
.card .field { width: 100%; }
</style>
