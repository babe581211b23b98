<script setup lang="ts">
import { JOINTS, KINDS, newRow, type Kind, type ConditionRow } from '~/composables/conditionRows'

const rows = defineModel<ConditionRow[]>({ required: true })
const { add, exempts, errors = {}, depth = 0, freshKind = 'phrases', focused = false } = defineProps<{
  /** What the button to add one says. */
  add: string
  /** These conditions speak for the copy: when a sender counts, can be chosen. */
  exempts: boolean
  /** What is wrong, by number of row. */
  errors?: Record<number, string>
  /** How deep in groups these stand. */
  depth?: number
  /** Of what kind one is that is added. */
  freshKind?: Kind
  /** The first field takes the keys as soon as it is there. */
  focused?: boolean
}>()
const box = ref<HTMLElement | null>(null)
async function focusLast() {
  await nextTick()
  const rows = box.value?.querySelectorAll<HTMLElement>('.condition')
  rows?.[rows.length - 1]?.querySelector<HTMLElement>('.fields textarea, .fields input')?.focus()
}
onMounted(() => {
  if (focused) void focusLast()
})
function addOne() {
  rows.value = [...rows.value, newRow(freshKind)]
  void focusLast()
}
const DEEPEST = 3

function set(index: number, row: ConditionRow) {
  rows.value = rows.value.map((r, i) => i === index ? row : r)
}
function remove(index: number) {
  rows.value = rows.value.filter((_, i) => i !== index)
}
</script>

<template>
  <div ref="box">
    <div
      v-for="(row, i) in rows"
      :key="row.key"
      class="condition"
    >
      <ChoiceField
        v-if="row.kind === 'group'"
        :model-value="row.joint"
        :options="JOINTS"
        label="Group"
        :width="184"
        @update:model-value="joint => set(i, { ...row, joint })"
      />
      <ChoiceField
        v-else-if="row.kind !== 'other'"
        :model-value="row.kind"
        :options="KINDS.filter(k => !(exempts && k.value === 'every'))"
        label="Kind of condition"
        :width="184"
        @update:model-value="kind => set(i, newRow(kind))"
      />
      <span
        v-else
        class="second small"
      >cannot be edited here</span>
      <div class="fields">
        <div
          v-if="row.kind === 'group'"
          class="group"
        >
          <ConditionRows
            :model-value="row.rows"
            :add
            :exempts
            :depth="depth + 1"
            @update:model-value="(inner: ConditionRow[]) => set(i, { ...row, rows: inner })"
          />
        </div>
        <ConditionFields
          v-else
          :model-value="row"
          :exempts
          @update:model-value="(r: ConditionRow) => set(i, r)"
        />
        <p
          v-if="errors[i]"
          class="wrong"
        >
          {{ errors[i] }}
        </p>
      </div>
      <PressButton
        plain
        :aria-label="`Remove condition ${i + 1}`"
        @click="remove(i)"
      >
        ×
      </PressButton>
    </div>
    <div class="add">
      <PressButton
        plain
        @click="addOne"
      >
        + Add {{ add }}
      </PressButton>
      <PressButton
        v-if="rows.length && depth < DEEPEST"
        plain
        second
        @click="rows = [...rows, newRow('group')]"
      >
        + Add group
      </PressButton>
    </div>
  </div>
</template>

<style scoped>
.condition {
  display: grid;
  grid-template-columns: 184px minmax(0, 1fr) auto;
  gap: 12px;
  padding: 5px 0;
  border-bottom: 1px solid var(--hairline);
  align-items: start;
}
.fields { display: flex; flex-wrap: wrap; gap: 4px 12px; align-items: flex-start; min-height: 30px; }
.wrong { flex-basis: 100%; }
.add { margin: 2px 0 0 -5px; display: flex; gap: 6px; }
.group { flex: 1; border-left: 2px solid var(--hairline); padding-left: 14px; }
</style>
