<script setup lang="ts">
import { DEFECT_CODES, type Counts, type DateTest, type AttachmentTest, type EntryKind, type PhrasePlace } from '#core/policy'
import { conditionWords } from '#core/words'
import { asKind, withField, type Row } from '~/composables/ruleForm'

/** The fields of one condition that is no group. */
const row = defineModel<Row>({ required: true })
const { spares } = defineProps<{ spares: boolean }>()
const directory = useDirectoryStore()

const set = (key: string, value: unknown) => row.value = withField(row.value, key, value)
const listOf = computed(() => row.value.kind === 'list' ? directory.data?.lists.find(l => l.id === asKind(row.value, 'senderOn').senderOn) : undefined)
const where = computed(() => (row.value.condition as { where?: PhrasePlace[] }).where)
const counts = computed(() => (row.value.condition as { counts?: Counts }).counts ?? '')

const COUNTS = [{ value: '', name: 'counts as usual here' }, { value: 'pass', name: 'counts when verified' }, { value: 'not fail', name: 'unless authentication fails' }, { value: 'any', name: 'counts always' }]
const ADDRESSED = [{ value: 'to', name: 'to the reader' }, { value: 'cc', name: 'to the reader as a copy' }, { value: 'only me', name: 'to the reader alone' }, { value: 'not by name', name: 'without naming the reader' }] as const
const AUTHENTICATION = [{ value: 'pass', name: 'the sender is verified' }, { value: 'fail', name: 'authentication fails' }, { value: 'none', name: 'nothing verifies the sender' }] as const
const DIRECTIONS = [{ value: 'inbound', name: 'comes in' }, { value: 'outbound', name: 'goes out' }, { value: 'internal', name: 'stays among us' }] as const
const DEFECTS = [{ value: '', name: 'any' }, ...DEFECT_CODES.map(d => ({ value: d as string, name: d }))]
const MB = 1_000_000
</script>

<template>
  <PhraseFields
    v-if="row.kind === 'phrases'"
    v-model="row"
    :spares
  />
  <template v-else-if="row.kind === 'set' || row.kind === 'expression'">
    <el-select
      v-if="row.kind === 'set'"
      :model-value="asKind(row, 'set').set"
      class="line-field"
      placeholder="a phrase set"
      aria-label="Phrase set"
      style="width: 200px"
      @change="(v: string) => set('set', v)"
    >
      <el-option
        v-for="s in directory.names.phraseSets"
        :key="s.id"
        :value="s.id"
        :label="`${s.name}, ${s.phrases.length} phrases`"
      />
    </el-select>
    <TextField
      v-else
      :model-value="asKind(row, 'expression').expression"
      label="Expression"
      placeholder="RE2, such as inv(oice)? \d{4}"
      :width="240"
      code
      @update:model-value="(v: string) => set('expression', v)"
    />
    <PlaceSelect
      :model-value="where"
      :spares
      @update:model-value="(v: PhrasePlace[] | undefined) => set('where', v)"
    />
  </template>
  <template v-else-if="row.kind === 'sender' || row.kind === 'list'">
    <EntryField
      v-if="row.kind === 'sender'"
      :model-value="asKind(row, 'sender').sender"
      label="Sender"
      :sender="true"
      @update:model-value="(v: { kind: EntryKind, value: string }) => set('sender', v)"
    />
    <el-select
      v-else
      :model-value="asKind(row, 'senderOn').senderOn"
      class="line-field"
      filterable
      placeholder="a list"
      aria-label="List"
      style="width: 200px"
      @change="(v: string) => set('senderOn', v)"
    >
      <el-option
        v-for="l in directory.data?.lists ?? []"
        :key="l.id"
        :value="l.id"
        :label="l.name"
      />
    </el-select>
    <ChoiceField
      v-if="spares"
      :model-value="counts"
      :options="COUNTS"
      label="When the sender counts"
      :width="190"
      @update:model-value="(v: string) => set('counts', v || undefined)"
    />
    <span
      v-if="listOf"
      class="second small"
    >{{ listOf.size.toLocaleString('en') }} entries<template v-if="!listOf.on"> · switched off, so it matches nobody</template></span>
    <span
      v-if="spares && counts === 'any'"
      class="small warn"
    >A From is easily forged: whoever writes it there gets past.</span>
  </template>
  <EntryField
    v-else-if="row.kind === 'recipient'"
    :model-value="asKind(row, 'recipient').recipient"
    label="Recipient"
    :sender="false"
    @update:model-value="(v: { kind: EntryKind, value: string }) => set('recipient', v)"
  />
  <ChoiceField
    v-else-if="row.kind === 'addressed'"
    :model-value="asKind(row, 'addressed').addressed"
    :options="ADDRESSED"
    label="Addressed"
    :width="240"
    @update:model-value="v => set('addressed', v)"
  />
  <TextField
    v-else-if="row.kind === 'header'"
    :model-value="asKind(row, 'header').header"
    label="Header"
    placeholder="x-mailer"
    code
    @update:model-value="(v: string) => set('header', v.trim())"
  />
  <DateFields
    v-else-if="row.kind === 'date'"
    :model-value="asKind(row, 'date').date"
    @update:model-value="(v: DateTest) => set('date', v)"
  />
  <BoundsFields
    v-else-if="row.kind === 'size'"
    :model-value="asKind(row, 'size').size"
    unit="MB"
    :of="MB"
    label="Megabytes"
    @update:model-value="v => set('size', v)"
  />
  <BoundsFields
    v-else-if="row.kind === 'attachments'"
    :model-value="asKind(row, 'attachments').attachments"
    unit=""
    label="How many attachments"
    @update:model-value="v => set('attachments', v)"
  />
  <AttachmentFields
    v-else-if="row.kind === 'attachment'"
    :model-value="asKind(row, 'attachment').attachment"
    @update:model-value="(v: AttachmentTest) => set('attachment', v)"
  />
  <TextField
    v-else-if="row.kind === 'mailingList'"
    :model-value="asKind(row, 'mailingList').mailingList === true ? '' : String(asKind(row, 'mailingList').mailingList)"
    label="Mailing list"
    placeholder="any; or its List-Id"
    :width="240"
    code
    @update:model-value="(v: string) => set('mailingList', v.trim() || true)"
  />
  <ChoiceField
    v-else-if="row.kind === 'authentication'"
    :model-value="asKind(row, 'authentication').authentication"
    :options="AUTHENTICATION"
    label="Authentication"
    :width="220"
    @update:model-value="v => set('authentication', v)"
  />
  <ChoiceField
    v-else-if="row.kind === 'direction'"
    :model-value="asKind(row, 'direction').direction"
    :options="DIRECTIONS"
    label="Which way it goes"
    @update:model-value="v => set('direction', v)"
  />
  <ChoiceField
    v-else-if="row.kind === 'defect'"
    :model-value="asKind(row, 'defect').defect === true ? '' : String(asKind(row, 'defect').defect)"
    :options="DEFECTS"
    label="Defect"
    :width="240"
    @update:model-value="(v: string) => set('defect', v || true)"
  />
  <span v-else-if="row.kind === 'other'">{{ conditionWords(row.condition, directory.names) }}</span>
</template>
