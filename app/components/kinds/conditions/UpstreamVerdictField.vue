<script setup lang="ts">
const value = defineModel<true | string>({ required: true })
const directory = useDirectoryStore()
const options = computed(() => [
  { value: '', name: 'any upstream filter header' },
  ...directory.names.trust.upstreamVerdicts.map(m => ({ value: m.id, name: m.name })),
])
</script>

<template>
  <ChoiceField
    :model-value="value === true ? '' : value"
    :options
    label="Upstream filter header"
    :width="240"
    @update:model-value="(v: string) => value = v || true"
  />
  <span
    v-if="options.length === 1"
    class="second small"
  >No upstream filter header is configured yet, so this matches nothing.</span>
</template>
