<script setup lang="ts">
import { ATTACHMENT_KINDS, type AttachmentKind, type AttachmentTest } from '#core/kinds'

/** What one attachment must be. */
const test = defineModel<AttachmentTest>({ required: true })
const patch = (change: Partial<AttachmentTest>) =>
  (test.value = Object.fromEntries(
    Object.entries({ ...test.value, ...change }).filter(([, v]) => v !== '' && v !== 0 && v !== undefined),
  ))
const more = ref(test.value.detected !== undefined || test.value.type !== undefined || test.value.atLeast !== undefined)
const KINDS = [{ value: '', name: 'of any kind' }, ...ATTACHMENT_KINDS.map(k => ({ value: k, name: k }))]
const MB = 1_000_000
</script>

<template>
  <ChoiceField
    :model-value="test.kind ?? ''"
    :options="KINDS"
    label="Kind of attachment"
    :width="140"
    @update:model-value="(kind: string) => patch({ kind: kind as AttachmentKind })"
  />
  <span>named</span>
  <TextField
    :model-value="test.name ?? ''"
    label="Name of attachment"
    placeholder="any, or *.exe"
    :width="160"
    code
    @update:model-value="(name: string) => patch({ name })"
  />
  <template v-if="more">
    <span>detected as</span>
    <TextField
      :model-value="test.detected ?? ''"
      label="Detected type"
      placeholder="any, or image/*"
      :width="130"
      code
      @update:model-value="(detected: string) => patch({ detected })"
    />
    <span>declared as</span>
    <TextField
      :model-value="test.type ?? ''"
      label="Declared type"
      placeholder="any"
      :width="130"
      code
      @update:model-value="(type: string) => patch({ type })"
    />
    <span>of</span>
    <TextField
      :model-value="test.atLeast === undefined ? '' : String(test.atLeast / MB)"
      label="Megabytes at least"
      placeholder="any"
      :width="60"
      @update:model-value="(v: string) => patch({ atLeast: Math.round((Number(v) || 0) * MB) })"
    />
    <span>MB or more</span>
  </template>
  <PressButton
    v-else
    plain
    small
    @click="more = true"
  >
    + Type and size
  </PressButton>
</template>
