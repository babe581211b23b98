<script setup lang="ts">
import { useSettingsPart } from '~/composables/settingsPart'

const { fields, changed, error, firstOf, busy, save, leave } = useSettingsPart(
  h => ({ rows: h.departments.map(d => ({ id: d.id as string | undefined, name: d.name, parent: d.parent ?? '' })) }),
  f => ({
    departments: f.rows.map(({ id, name, parent }) => ({ ...(id === undefined ? {} : { id }), name: name.trim(), parent: parent || null })),
  }),
  'Departments saved.',
)
const above = (row: { id?: string }) => [
  { value: '', name: 'the whole organisation' },
  ...fields.value.rows.flatMap(r => (r.id && r.id !== row.id ? [{ value: r.id, name: r.name }] : [])),
]
</script>

<template>
  <SettingsPart
    id="departments"
    title="Departments"
    :changed
    :error
    :busy
    @save="save"
    @leave="leave"
  >
    <template #sentence>
      A department can have its own lists and rules. They apply to its users and to those of its subdepartments.
    </template>
    <div
      v-for="(row, i) in fields.rows"
      :key="row.id ?? `new ${i}`"
      class="row"
    >
      <el-input
        v-model="row.name"
        :aria-label="`Name of department ${i + 1}`"
        placeholder="name"
        style="width: 230px"
      />
      <span class="second small">part of</span>
      <ChoiceField
        v-model="row.parent"
        :options="above(row)"
        :label="`Parent of department ${i + 1}`"
        :width="190"
      />
      <PressButton
        plain
        :aria-label="`Remove ${row.name || 'this department'}`"
        @click="fields.rows.splice(i, 1)"
      >
        ×
      </PressButton>
    </div>
    <PressButton
      plain
      @click="fields.rows.push({ id: undefined, name: '', parent: '' })"
    >
      + Add department
    </PressButton>
    <p
      v-if="firstOf('departments') && firstOf('departments') !== error"
      class="wrong"
    >
      {{ firstOf('departments') }}
    </p>
  </SettingsPart>
</template>

<style scoped>
.row { display: flex; flex-wrap: wrap; gap: 10px; align-items: center; }
.press.plain { margin-left: -5px; }
</style>
