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
  { value: '', name: 'All recipients' },
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
  { value: '', name: 'Tags: any' },
  { value: 'important', name: 'important' },
  ...labels.value.tags.map(tag => ({ value: `tag:${tag}`, name: `tagged ${tag}` })),
  ...labels.value.folders.map(folder => ({ value: `folder:${folder}`, name: `in ${folder}` })),
])
const touched = computed(() => {
  const id = shown.value.touchedBy
  return id ? (directory.names.lists.find(l => l.id === id)?.name ?? 'a rule') : ''
})
const search = useDebounceFn(() => narrow({ words: words.value.trim() }), 250)
const laneOf = (value: string) => (value === 'filed' ? 'inbox' : value as Lane)
</script>

<template>
  <MailTabs>
    <PressButton
      v-if="touched"
      plain
      @click="narrow({ touchedBy: '' })"
    >
      matched by {{ touched }} ×
    </PressButton>
    <PressButton
      v-if="shown.eventId"
      plain
      small
      @click="narrow({ eventId: '' })"
    >
      of this event ×
    </PressButton>
    <PressButton
      v-if="mail.items.length"
      plain
      small
      title="A list entry or rule for mail like the messages shown"
      @click="emit('suggestion')"
    >
      New rule from all shown…
    </PressButton>
    <span
      class="count second small"
      role="status"
      aria-label="Number of messages shown"
    ><template v-if="mail.state === 'loading'">counting…</template><WordHelp
      v-else-if="mail.count"
      :word="countWords(mail.count)"
      term="message"
    /></span>
  </MailTabs>
  <div class="showing">
    <ChoiceField
      v-slot="{ option }"
      :model-value="shown.lane"
      :options="SHOWN_LANES"
      label="Location"
      :width="172"
      @update:model-value="(v: string) => narrow({ lane: v })"
    >
      <LaneIcon
        v-if="option.value && !option.value.includes(',')"
        :lane="laneOf(option.value)"
        :filed="option.value === 'filed'"
        :name="option.name"
      /><span v-else>{{ option.name }}</span>
    </ChoiceField>
    <DayRange
      :since="shown.since"
      :until="shown.until"
      @update:since="(since: string) => narrow({ since })"
      @update:until="(until: string) => narrow({ until })"
    />
    <template v-if="people.length > 2">
      <ChoiceField
        :model-value="shown.who"
        :options="people"
        label="Recipient"
        filterable
        :width="168"
        @update:model-value="(v: string) => narrow({ who: v })"
      />
    </template>
    <ChoiceField
      :model-value="shown.judgement"
      :options="SHOWN_JUDGEMENTS"
      label="Mark"
      :width="148"
      @update:model-value="(v: string) => narrow({ judgement: v })"
    />
    <ChoiceField
      :model-value="shown.label"
      :options="labelled"
      label="Tags"
      filterable
      :width="160"
      @update:model-value="(v: string) => narrow({ label: v })"
    />
    <el-input
      v-model="words"
      class="line-field words"
      placeholder="words, sender or tag"
      aria-label="Search"
      clearable
      @input="search"
      @keyup.enter="narrow({ words: words.trim() })"
    />
  </div>
</template>

<style scoped>
.words { width: 110px; flex: 1; max-width: 300px; min-width: 110px; }
.count { margin-left: auto; white-space: nowrap; }
</style>
