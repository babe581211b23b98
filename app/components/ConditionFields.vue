<script setup lang="ts">
import { ATTACHMENT_KINDS, type AttachmentTest, type DateTest, type EntryKind, type PhrasePlace } from '#core/policy'
import { conditionWords } from '#core/words'
import { asKind, withField, type Row } from '~/composables/ruleForm'

const row = defineModel<Row>({ required: true })
const { spares } = defineProps<{ spares: boolean }>()
const directory = useDirectoryStore()

const set = (key: string, value: unknown) => row.value = withField(row.value, key, value)
const patch = (change: Partial<Row>) => row.value = { ...row.value, ...change }
const companied = ref(row.value.near !== '')
const sizeOf = (id: string) => directory.data?.lists.find(l => l.id === id)
const attachment = (change: Partial<AttachmentTest>) => set('attachment', Object.fromEntries(Object.entries({ ...asKind(row.value, 'attachment').attachment, ...change }).filter(([, v]) => v)))
const age = (change: Partial<DateTest>) => set('date', { ...asKind(row.value, 'date').date, ...change })
const MB = 1_000_000
</script>

<template>
  <template v-if="row.kind === 'phrases'">
    <el-input
      :model-value="row.text"
      type="textarea"
      :autosize="{ minRows: 2, maxRows: 8 }"
      placeholder="one a line, or with commas between"
      aria-label="Words and phrases"
      style="width: 220px"
      @update:model-value="(text: string) => patch({ text })"
    />
    <div class="how">
      <PlaceSelect
        :model-value="(row.condition as { where?: PhrasePlace[] }).where"
        :spares
        @update:model-value="(v: PhrasePlace[] | undefined) => set('where', v)"
      />
      <el-select
        :model-value="asKind(row, 'phrases').whole ?? true"
        class="line-field"
        aria-label="Whole words or parts"
        style="width: 178px"
        @change="(v: boolean) => set('whole', v ? undefined : false)"
      >
        <el-option
          :value="true"
          label="as whole words"
        />
        <el-option
          :value="false"
          label="also inside words"
        />
      </el-select>
      <el-select
        :model-value="asKind(row, 'phrases').view ?? 'plain'"
        class="line-field"
        aria-label="Looked for"
        style="width: 178px"
        @change="(v: string) => set('view', v === 'plain' ? undefined : v)"
      >
        <el-option
          value="plain"
          label="as written"
        />
        <el-option
          value="bare"
          label="with or without accents"
        />
        <el-option
          value="undisguised"
          label="through disguise"
        />
      </el-select>
    </div>
    <div
      v-if="companied"
      class="company"
    >
      <span>together with</span>
      <el-input
        :model-value="row.near"
        type="textarea"
        :autosize="{ minRows: 1, maxRows: 5 }"
        aria-label="Together with"
        placeholder="one a line"
        style="width: 170px"
        @update:model-value="(near: string) => patch({ near })"
      />
      <span>within</span>
      <el-input
        :model-value="row.within === null ? '' : String(row.within)"
        aria-label="Within how many words"
        placeholder="any"
        style="width: 58px"
        @update:model-value="(v: string) => patch({ within: /^\d{1,3}$/.test(v.trim()) ? Number(v) : null })"
      />
      <span>words</span>
    </div>
    <button
      v-else
      class="press plain small"
      type="button"
      @click="companied = true"
    >
      + only with other words
    </button>
  </template>
  <template v-else-if="row.kind === 'set'">
    <el-select
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
    <PlaceSelect
      :model-value="(row.condition as { where?: PhrasePlace[] }).where"
      :spares
      @update:model-value="(v: PhrasePlace[] | undefined) => set('where', v)"
    />
  </template>
  <template v-else-if="row.kind === 'expression'">
    <el-input
      :model-value="asKind(row, 'expression').expression"
      class="mono"
      placeholder="RE2, such as inv(oice)? \d{4}"
      aria-label="Expression"
      style="width: 240px"
      spellcheck="false"
      @update:model-value="(v: string) => set('expression', v)"
    />
    <PlaceSelect
      :model-value="(row.condition as { where?: PhrasePlace[] }).where"
      :spares
      @update:model-value="(v: PhrasePlace[] | undefined) => set('where', v)"
    />
  </template>
  <template v-else-if="row.kind === 'sender'">
    <EntryField
      :model-value="asKind(row, 'sender').sender"
      label="Sender"
      :sender="true"
      @update:model-value="(v: { kind: EntryKind, value: string }) => set('sender', v)"
    />
    <span
      v-if="spares"
      class="second small"
    >counts when verified</span>
  </template>
  <template v-else-if="row.kind === 'list'">
    <el-select
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
    <span
      v-if="sizeOf(asKind(row, 'senderOn').senderOn)"
      class="second small"
    >{{ sizeOf(asKind(row, 'senderOn').senderOn)!.size.toLocaleString('en') }} entries<template v-if="spares"> · counts when verified</template><template v-if="!sizeOf(asKind(row, 'senderOn').senderOn)!.on"> · switched off, so it matches nobody</template></span>
  </template>
  <template v-else-if="row.kind === 'recipient'">
    <EntryField
      :model-value="asKind(row, 'recipient').recipient"
      label="Recipient"
      :sender="false"
      @update:model-value="(v: { kind: EntryKind, value: string }) => set('recipient', v)"
    />
  </template>
  <el-select
    v-else-if="row.kind === 'addressed'"
    :model-value="asKind(row, 'addressed').addressed"
    class="line-field"
    aria-label="Addressed"
    style="width: 240px"
    @change="(v: string) => set('addressed', v)"
  >
    <el-option
      value="to"
      label="to the reader"
    /><el-option
      value="cc"
      label="to the reader as a copy"
    /><el-option
      value="only me"
      label="to the reader alone"
    /><el-option
      value="not by name"
      label="without naming the reader"
    />
  </el-select>
  <el-input
    v-else-if="row.kind === 'header'"
    :model-value="asKind(row, 'header').header"
    placeholder="x-mailer"
    aria-label="Header"
    style="width: 200px"
    spellcheck="false"
    @update:model-value="(v: string) => set('header', v.trim())"
  />
  <template v-else-if="row.kind === 'date'">
    <el-select
      :model-value="asKind(row, 'date').date.of"
      class="line-field"
      aria-label="Which date"
      style="width: 110px"
      @change="(of: 'sent' | 'received') => age({ of })"
    >
      <el-option
        value="sent"
        label="sent"
      /><el-option
        value="received"
        label="received"
      />
    </el-select>
    <span>more than</span>
    <el-input
      :model-value="String(asKind(row, 'date').date.olderThan ?? '')"
      aria-label="Days"
      style="width: 70px"
      @update:model-value="(v: string) => age({ olderThan: Number(v) || 0 })"
    />
    <span>days ago</span>
  </template>
  <template v-else-if="row.kind === 'size'">
    <span>at least</span>
    <el-input
      :model-value="String((asKind(row, 'size').size.atLeast ?? 0) / MB)"
      aria-label="Megabytes"
      style="width: 80px"
      @update:model-value="(v: string) => set('size', { atLeast: Math.round((Number(v) || 0) * MB) })"
    />
    <span>MB</span>
  </template>
  <template v-else-if="row.kind === 'attachment'">
    <el-select
      :model-value="asKind(row, 'attachment').attachment.kind ?? ''"
      class="line-field"
      aria-label="Kind of attachment"
      style="width: 140px"
      @change="(v: string) => attachment({ kind: v as never })"
    >
      <el-option
        value=""
        label="of any kind"
      />
      <el-option
        v-for="k in ATTACHMENT_KINDS"
        :key="k"
        :value="k"
        :label="k"
      />
    </el-select>
    <span>named</span>
    <el-input
      :model-value="asKind(row, 'attachment').attachment.name ?? ''"
      placeholder="anything, or *.exe"
      aria-label="Name of attachment"
      style="width: 160px"
      @update:model-value="(v: string) => attachment({ name: v })"
    />
  </template>
  <template v-else-if="row.kind === 'attachments'">
    <span>at least</span>
    <el-input
      :model-value="String(asKind(row, 'attachments').attachments.atLeast ?? 0)"
      aria-label="How many attachments"
      style="width: 70px"
      @update:model-value="(v: string) => set('attachments', { atLeast: Math.round(Number(v) || 0) })"
    />
  </template>
  <el-input
    v-else-if="row.kind === 'mailingList'"
    :model-value="asKind(row, 'mailingList').mailingList === true ? '' : String(asKind(row, 'mailingList').mailingList)"
    placeholder="any; or its List-Id"
    aria-label="Mailing list"
    style="width: 240px"
    spellcheck="false"
    @update:model-value="(v: string) => set('mailingList', v.trim() || true)"
  />
  <el-select
    v-else-if="row.kind === 'authentication'"
    :model-value="asKind(row, 'authentication').authentication"
    class="line-field"
    aria-label="Authentication"
    style="width: 220px"
    @change="(v: string) => set('authentication', v)"
  >
    <el-option
      value="pass"
      label="the sender is verified"
    /><el-option
      value="fail"
      label="authentication fails"
    /><el-option
      value="none"
      label="nothing verifies the sender"
    />
  </el-select>
  <span v-else-if="row.kind === 'other'">{{ conditionWords(row.condition, directory.names) }}</span>
</template>

<style scoped>
.how { display: grid; gap: 4px; }
.company { display: flex; gap: 8px; align-items: center; flex-basis: 100%; }
</style>
