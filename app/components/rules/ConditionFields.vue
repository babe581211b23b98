<script setup lang="ts">
import type { Counts, PhrasePlace } from '#core/policy'
import { conditionWords } from '#core/words'
import { fieldOf } from '~/composables/kindFields'
import { asKind, factOf, withField, type ConditionRow } from '~/composables/conditionRows'

/** The fields of one condition that is no group. */
const row = defineModel<ConditionRow>({ required: true })
const { exempts } = defineProps<{ exempts: boolean }>()
const directory = useDirectoryStore()

const sets = computed(() => directory.names.phraseSets.map(s => ({ value: s.id, name: `${s.name}, ${s.phrases.length} phrases` })))
const lists = computed(() => (directory.data?.lists ?? []).map(l => ({ value: l.id, name: l.name })))
const fact = computed(() => factOf(row.value))
const set = (key: string, value: unknown) => (row.value = withField(row.value, key, value))
const listOf = computed(() =>
  row.value.kind === 'list'
    ? directory.data?.lists.find(l => l.id === asKind(row.value, 'senderOn').senderOn)
    : undefined,
)
const where = computed(() => (row.value.condition as { where?: PhrasePlace[] }).where)
const counts = computed(() => (row.value.condition as { counts?: Counts }).counts ?? '')

const COUNTS = [
  { value: '', name: 'counts as usual here' },
  { value: 'verified', name: 'counts when verified' },
  { value: 'notFailed', name: 'unless authentication fails' },
  { value: 'any', name: 'counts always' },
]
</script>

<template>
  <PhraseFields
    v-if="row.kind === 'phrases'"
    v-model="row"
    :exempts
  />
  <template v-else-if="row.kind === 'set' || row.kind === 'expression'">
    <ChoiceField
      v-if="row.kind === 'set'"
      :model-value="asKind(row, 'set').set"
      :options="sets"
      label="Phrase set"
      placeholder="a phrase set"
      :width="200"
      @update:model-value="(v: string) => set('set', v)"
    />
    <TextField
      v-else
      :model-value="asKind(row, 'expression').expression"
      label="Expression"
      placeholder="RE2, such as inv(oice)? \d{4}"
      :width="240"
      code
      @update:model-value="(v: string) => set('expression', v)"
    />
    <PlaceSelect
      :model-value="where"
      :exempts
      @update:model-value="(v: PhrasePlace[] | undefined) => set('where', v)"
    />
  </template>
  <template v-else-if="row.kind === 'sender' || row.kind === 'list'">
    <SenderFields
      v-if="row.kind === 'sender'"
      v-model="row"
    />
    <ChoiceField
      v-else
      :model-value="asKind(row, 'senderOn').senderOn"
      :options="lists"
      label="List"
      placeholder="a list"
      filterable
      :width="200"
      @update:model-value="(v: string) => set('senderOn', v)"
    />
    <ChoiceField
      v-if="exempts"
      :model-value="counts"
      :options="COUNTS"
      label="When the sender counts"
      :width="190"
      @update:model-value="(v: string) => set('counts', v || undefined)"
    />
    <span
      v-if="listOf"
      class="second small"
    >{{ listOf.size.toLocaleString('en') }} entries<template v-if="!listOf.enabled"> · switched off, so it matches nobody</template></span>
    <span
      v-if="exempts && counts === 'any'"
      class="small warn"
    >A From is easily forged: whoever writes it there gets past.</span>
  </template>
  <component
    :is="fieldOf(fact)"
    v-else-if="fact && fieldOf(fact)"
    :model-value="(row.condition as Record<string, unknown>)[fact]"
    @update:model-value="(v: unknown) => set(fact!, v)"
  />
  <span v-else-if="row.kind === 'other'">{{ conditionWords(row.condition, directory.names) }}</span>
</template>
