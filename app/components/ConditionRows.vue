<script setup lang="ts">
import { newRow, type Kind, type Row } from '~/composables/ruleForm'

const rows = defineModel<Row[]>({ required: true })
const { add, spares, errors = {} } = defineProps<{
  /** What the button to add one says. */
  add: string
  /** These conditions speak for the copy: a sender counts only when verified. */
  spares: boolean
  /** What is wrong, by number of row. */
  errors?: Record<number, string>
}>()
// The common ones first; the rest behind them in one list, not in a tree.
const KINDS: { value: Kind, name: string }[] = [
  { value: 'phrases', name: 'words' }, { value: 'sender', name: 'the sender is' }, { value: 'list', name: 'the sender is on' }, { value: 'attachment', name: 'an attachment' }, { value: 'mailingList', name: 'a mailing list' },
  { value: 'authentication', name: 'authentication' }, { value: 'recipient', name: 'the recipient is' }, { value: 'addressed', name: 'addressed' }, { value: 'set', name: 'a phrase set' }, { value: 'expression', name: 'an expression' },
  { value: 'header', name: 'has the header' }, { value: 'date', name: 'its age' }, { value: 'size', name: 'its size' }, { value: 'attachments', name: 'attachments' }, { value: 'important', name: 'marked important' },
  { value: 'defect', name: 'a defect in it' }, { value: 'markedUpstream', name: 'marked upstream' }, { value: 'every', name: 'every message' },
]

function set(index: number, row: Row) {
  rows.value = rows.value.map((r, i) => i === index ? row : r)
}
function remove(index: number) {
  rows.value = rows.value.filter((_, i) => i !== index)
}
</script>

<template>
  <div
    v-for="(row, i) in rows"
    :key="row.key"
    class="condition"
  >
    <el-select
      v-if="row.kind !== 'other'"
      class="line-field"
      :model-value="row.kind"
      aria-label="Kind of condition"
      style="width: 146px"
      @change="(k: Kind) => set(i, newRow(k))"
    >
      <el-option
        v-for="k in KINDS.filter(k => !(spares && k.value === 'every'))"
        :key="k.value"
        :value="k.value"
        :label="k.name"
      />
    </el-select>
    <span
      v-else
      class="second small"
    >as it stands</span>
    <div class="fields">
      <ConditionFields
        :model-value="row"
        :spares
        @update:model-value="(r: Row) => set(i, r)"
      />
      <p
        v-if="errors[i]"
        class="wrong"
      >
        {{ errors[i] }}
      </p>
    </div>
    <button
      class="press plain"
      type="button"
      :aria-label="`Take condition ${i + 1} out`"
      @click="remove(i)"
    >
      ×
    </button>
  </div>
  <button
    class="press plain add"
    type="button"
    @click="rows = [...rows, newRow('phrases')]"
  >
    + {{ add }}
  </button>
</template>

<style scoped>
.condition { display: grid; grid-template-columns: 146px 1fr auto; gap: 12px; padding: 8px 0; border-bottom: 1px solid var(--hairline); align-items: start; }
.fields { display: flex; flex-wrap: wrap; gap: 8px 12px; align-items: center; min-height: 30px; }
.wrong { flex-basis: 100%; }
.add { margin: 6px 0 0 -5px; justify-self: start; }
</style>
