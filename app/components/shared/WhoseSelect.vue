<script setup lang="ts">
const owner = defineModel<string>({ required: true })
const { fixed = false, among } = defineProps<{
  fixed?: boolean
  /** Whom it may be for; all that there are unless said. */ among?: { id: string, name: string }[]
}>()
const directory = useDirectoryStore()
const owners = computed(() => among ?? directory.data?.owners ?? [])
</script>

<template>
  <el-select
    v-model="owner"
    :disabled="fixed || owners.length < 2"
    aria-label="For whom"
    style="width: 190px"
  >
    <el-option
      v-for="o in owners"
      :key="o.id"
      :value="o.id"
      :label="o.name"
    />
    <el-option
      v-if="!owners.some(o => o.id === owner)"
      :value="owner"
      :label="directory.ownerName(owner)"
    />
  </el-select>
</template>
