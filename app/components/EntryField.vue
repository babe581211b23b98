<script setup lang="ts">
import type { EntryKind } from '#core/policy'

/** One entry: how wide it is taken, and its value. */
const entry = defineModel<{ kind: EntryKind, value: string }>({ required: true })
const { label, sender } = defineProps<{ label: string, /** Also kinds that only a sender has. */ sender: boolean }>()

const KINDS: { value: EntryKind, name: string, example: string }[] = [
  { value: 'address', name: 'this address', example: 'name@quayline.example' }, { value: 'domain', name: 'this domain', example: 'quayline.example' }, { value: 'domain and below', name: 'domain and below', example: 'quayline.example' },
  { value: 'pattern', name: 'pattern with * and ?', example: '*@*.quayline.example' }, { value: 'words', name: 'words in it', example: 'chandlers' },
  { value: 'mailing list', name: 'mailing list', example: 'news.regatta-society.example' }, { value: 'network', name: 'network', example: '192.0.2.0/24' },
]
const kinds = computed(() => sender ? KINDS : KINDS.filter(k => k.value !== 'mailing list' && k.value !== 'network'))
</script>

<template>
  <el-select
    :model-value="entry.kind"
    class="line-field"
    aria-label="How wide"
    style="width: 166px"
    @change="(kind: EntryKind) => entry = { ...entry, kind }"
  >
    <el-option
      v-for="k in kinds"
      :key="k.value"
      :value="k.value"
      :label="k.name"
    />
  </el-select>
  <el-input
    :model-value="entry.value"
    :placeholder="KINDS.find(k => k.value === entry.kind)?.example"
    :aria-label="label"
    style="width: 220px"
    spellcheck="false"
    @update:model-value="(value: string) => entry = { ...entry, value }"
  />
</template>
