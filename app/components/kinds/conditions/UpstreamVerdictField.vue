<script setup lang="ts">
const value = defineModel<true | string>({ required: true })
const directory = useDirectoryStore()
const options = computed(() => [
  { value: '', name: 'with any mark that we believe' },
  ...directory.names.trust.upstreamVerdicts.map(m => ({ value: m.id, name: m.name })),
])
</script>

<template>
  <ChoiceField
    :model-value="value === true ? '' : value"
    :options
    label="Which mark"
    :width="240"
    @update:model-value="(v: string) => value = v || true"
  />
  <span
    v-if="options.length === 1"
    class="second small"
  >No mark is named yet, so it matches nothing.</span>
</template>
