<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import type { Lane } from '#core/policy'
import { api } from '~/api/client'
import { SHOWN_JUDGEMENTS, SHOWN_LANES, useMailShown } from '~/composables/mailShown'

/** The line that says what is shown, each of its parts a field. */
const emit = defineEmits<{ suggestion: [] }>()
const mail = useMailStore()
const directory = useDirectoryStore()
const { shown, narrow } = useMailShown()
const words = ref(shown.value.words)
watch(() => shown.value.words, now => (words.value = now))

const people = computed(() => [
  { value: '', name: 'everyone' },
  ...(directory.data?.people ?? []).map(p => ({ value: p.id, name: p.name })),
])
const labels = ref<{ tags: string[], folders: string[] }>({ tags: [], folders: [] })
onMounted(async () => {
  try {
    labels.value = await api.copyLabels()
  }
  catch (error) {
    // The lines themselves say what is wrong with the server; this only makes a choice shorter.
    console.warn(error)
  }
})
const labelled = computed(() => [
  { value: '', name: 'marked or not' },
  { value: 'important', name: 'important' },
  ...labels.value.tags.map(tag => ({ value: `tag:${tag}`, name: `tagged ${tag}` })),
  ...labels.value.folders.map(folder => ({ value: `folder:${folder}`, name: `in ${folder}` })),
  { value: 'filed', name: 'filed out of the inbox' },
])
const touched = computed(() => {
  const id = shown.value.touchedBy
  return id ? (directory.names.lists.find(l => l.id === id)?.name ?? 'one rule') : ''
})
const search = useDebounceFn(() => narrow({ words: words.value.trim() }), 250)
const laneOf = (value: string) => value as Lane
</script>

<template>
  <div class="showing">
    <span>Showing</span>
    <ChoiceField
      v-slot="{ option }"
      :model-value="shown.lane"
      :options="SHOWN_LANES"
      label="Lane"
      :width="112"
      @update:model-value="(v: string) => narrow({ lane: v })"
    >
      <LaneIcon
        v-if="option.value && !option.value.includes(',')"
        :lane="laneOf(option.value)"
        :name="option.name"
      /><span v-else>{{ option.name }}</span>
    </ChoiceField>
    <span>since</span>
    <DayOnLine
      :model-value="shown.since"
      label="Since"
      placeholder="the beginning"
      :width="118"
      @update:model-value="(v: string) => narrow({ since: v })"
    />
    <span>until</span>
    <DayOnLine
      :model-value="shown.until"
      label="Until"
      placeholder="now"
      :width="88"
      @update:model-value="(v: string) => narrow({ until: v })"
    />
    <template v-if="people.length > 2">
      <span>for</span>
      <ChoiceField
        :model-value="shown.who"
        :options="people"
        label="For whom"
        filterable
        :width="112"
        @update:model-value="(v: string) => narrow({ who: v })"
      />
    </template>
    <ChoiceField
      :model-value="shown.judgement"
      :options="SHOWN_JUDGEMENTS"
      label="Judgement"
      :width="108"
      @update:model-value="(v: string) => narrow({ judgement: v })"
    />
    <ChoiceField
      :model-value="shown.label"
      :options="labelled"
      label="Marks"
      filterable
      :width="116"
      @update:model-value="(v: string) => narrow({ label: v })"
    />
    <el-input
      v-model="words"
      class="line-field words"
      placeholder="mentioning words, a sender, a tag"
      aria-label="Mentioning"
      clearable
      @input="search"
      @keyup.enter="narrow({ words: words.trim() })"
    />
    <PressButton
      v-if="touched"
      plain
      @click="narrow({ touchedBy: '' })"
    >
      touched by {{ touched }} ×
    </PressButton>
    <PressButton
      v-if="shown.eventId"
      plain
      small
      @click="narrow({ eventId: '' })"
    >
      what one act moved ×
    </PressButton>
    <PressButton
      v-if="mail.items.length"
      plain
      small
      title="A standing rule for mail like what is shown"
      @click="emit('suggestion')"
    >
      make a rule of this
    </PressButton>
    <span
      class="count second small"
      role="status"
      aria-label="How many are shown"
    >{{ mail.state === 'loading' ? 'looking …' : mail.count ? countWords(mail.count) : '' }}</span>
  </div>
</template>

<style scoped>
.showing { display: flex; flex-wrap: wrap; align-items: center; gap: 4px 8px; padding: 2px 0 10px; }
.words { width: 110px; flex: 1; max-width: 300px; min-width: 110px; }
.count { margin-left: auto; white-space: nowrap; }
</style>
