<script setup lang="ts">
const owner = defineModel<string>({ required: true })
const { fixed = false, among, proposing = false, width = 190 } = defineProps<{
  fixed?: boolean
  /** Also for whom one may only propose. */
  proposing?: boolean
  /** Whom it may be for; all that there are unless said. */
  among?: { id: string, name: string }[]
  width?: number
}>()
const directory = useDirectoryStore()
const owners = computed(() => among ?? [
  ...(directory.data?.owners ?? []),
  ...(proposing ? (directory.data?.proposable ?? []) : []).map(o => ({ ...o, name: `${o.name} (as a proposal)` })),
])
const options = computed(() => {
  const named = owners.value.map(o => ({ value: o.id, name: o.name }))
  return named.some(o => o.value === owner.value) ? named : [...named, { value: owner.value, name: directory.ownerName(owner.value) }]
})
</script>

<template>
  <ChoiceField
    v-model="owner"
    :options
    :disabled="fixed || owners.length < 2"
    label="Owner"
    boxed
    :width
  />
</template>
