<script setup lang="ts">
import type { EntryKind } from '#core'
import { api, type Added } from '~/api/client'

/** Adds entries to a list; what cannot be read stays in the field. */
const { list } = defineProps<{ list: string }>()
const emit = defineEmits<{ added: [] }>()
const notices = useNoticeStore()
const TAKEN_FOR: { value: EntryKind | '', name: string }[] = [
  { value: '', name: 'what they look like' },
  { value: 'words', name: 'words in address or name' },
  { value: 'mailing list', name: 'mailing lists, by List-Id' },
  { value: 'network', name: 'networks of the client' },
  { value: 'pattern', name: 'patterns with * and ?' },
]
const adding = reactive({ text: '', as: '' as EntryKind | '', below: false, note: '', expires: '' })
const added = ref<Added | null>(null)
const { error, fields, submit } = useForm()

const looksLikeDomain = computed(
  () =>
    adding.as === '' &&
    adding.text.split(/\r?\n/).some((l) => {
      const bare = l.trim()
      return bare !== '' && (bare.startsWith('@') || !bare.includes('@'))
    }),
)

const add = () =>
  submit(async () => {
    const result = await api.addEntries(list, {
      text: adding.text,
      below: adding.below,
      as: adding.as || undefined,
      note: adding.note || undefined,
      expires: adding.expires || undefined,
    })
    added.value = result
    // What could not be read stays where it was written.
    adding.text = result.wrong.map(w => w.text).join('\n')
    if (!result.wrong.length) Object.assign(adding, { note: '', expires: '' })
    if (result.added.length)
      notices.say(
        `${result.added.length === 1 ? 'One entry is' : `${result.added.length} entries are`} added, and in force.`,
        result.act,
      )
    emit('added')
  })
</script>

<template>
  <form
    class="sheet add"
    @submit.prevent="add"
  >
    <h2>Add</h2>
    <FormField
      label="Addresses or domains, one a line"
      :error="fields.text"
    >
      <el-input
        v-model="adding.text"
        type="textarea"
        :rows="6"
        placeholder="name@quayline.example&#10;@quayline.example"
        spellcheck="false"
      />
    </FormField>
    <label class="field">Taken for
      <ChoiceField
        v-model="adding.as"
        :options="TAKEN_FOR"
        label="Taken for"
        boxed
        :width="null"
      />
    </label>
    <el-checkbox
      v-if="looksLikeDomain"
      v-model="adding.below"
    >
      a domain means what lies below it too
    </el-checkbox>
    <label class="field">Note <el-input
      v-model="adding.note"
      placeholder="why, for whoever comes after"
    /></label>
    <label class="field">Expires <DayField
      v-model="adding.expires"
      label="Expires"
      :width="160"
    /></label>
    <FormFoot
      :error
      act="Add to the list"
      staying
    />
    <AddedReport
      v-if="added"
      :added
    />
  </form>
</template>

<style scoped>
.add { padding: 18px 22px; display: grid; gap: 12px; justify-items: start; }
.add .field, .add :deep(.el-textarea), .add :deep(.el-input) { width: 100%; }
</style>
