<script setup lang="ts">
import { api } from '~/api/client'

const quarantine = defineModel<string>({ required: true })
const directory = useDirectoryStore()
const session = useSessionStore()
const notices = useNoticeStore()
const making = ref(false)
const name = ref('')

async function make() {
  if (!name.value.trim()) return
  try {
    const made = await api.makeQuarantine(name.value)
    await directory.load()
    quarantine.value = made.id
    making.value = false
    name.value = ''
  }
  catch (e) {
    notices.failed(e)
  }
}
</script>

<template>
  <span class="quarantine">
    <el-select
      v-model="quarantine"
      class="line-field"
      aria-label="Quarantine"
      style="width: 150px"
    >
      <el-option
        v-for="q in directory.names.quarantines"
        :key="q.id"
        :value="q.id"
        :label="q.name"
      />
    </el-select>
    <template v-if="making">
      <el-input
        v-model="name"
        placeholder="name"
        aria-label="Name of the new quarantine"
        style="width: 150px"
        @keydown.enter.prevent="make"
      />
      <PressButton
        @click="make"
      >
        Add
      </PressButton>
    </template>
    <PressButton
      v-else-if="session.can('change all lists and rules')"
      plain
      small
      @click="making = true"
    >
      + Add quarantine
    </PressButton>
  </span>
</template>

<style scoped>
.quarantine { display: inline-flex; gap: 8px; align-items: center; }
</style>
