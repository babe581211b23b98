<script setup lang="ts">
import { HAZARDS, type Hazard } from '#core/policy'

/** From what a protection protects. */
const hazards = defineModel<Hazard[]>({ required: true })
const NAMES: Record<Hazard, string> = { spam: 'spam', quarantine: 'quarantine', delete: 'deletion', refuse: 'refusal' }
</script>

<template>
  <el-checkbox-group v-model="hazards">
    <el-checkbox
      v-for="h in HAZARDS"
      :key="h"
      :value="h"
    >
      {{ NAMES[h] }}
    </el-checkbox>
  </el-checkbox-group>
</template>
