<script setup lang="ts">
import { DEFECT_CODES, type DefectCode } from '#core/message'

const value = defineModel<true | DefectCode>({ required: true })
const OPTIONS = [{ value: '', name: 'any' }, ...DEFECT_CODES.map(d => ({ value: d as string, name: d as string }))]
</script>

<template>
  <ChoiceField
    :model-value="value === true ? '' : value"
    :options="OPTIONS"
    label="Defect"
    :width="240"
    @update:model-value="(v: string) => value = v as DefectCode || true"
  />
</template>
