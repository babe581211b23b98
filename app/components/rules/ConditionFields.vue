<script setup lang="ts">
import { countsOf, type Counts, type PhrasePlace } from '#core/policy'
import { conditionWords } from '#core/words'
import { counted } from '#core/wording'
import { fieldOf } from '~/composables/kindFields'
import { asKind, factOf, withField, type ConditionRow } from '~/composables/conditionRows'
import { COUNTS_OPTIONS, forgeryWarning, MANDATORY_RULE } from '~/composables/senderCounts'

/** The fields of one condition that is no group. */
const row = defineModel<ConditionRow>({ required: true })
const { exempts } = defineProps<{ exempts: boolean }>()
const directory = useDirectoryStore()

const sets = computed(() => directory.names.phraseSets.map(s => ({
  value: s.id,
  name: `${s.name}, ${counted(s.phrases.length, 'phrase')}`,
})))
const lists = computed(() => (directory.data?.lists ?? []).map(l => ({ value: l.id, name: l.name })))
const fact = computed(() => factOf(row.value))
const set = (key: string, value: unknown) => (row.value = withField(row.value, key, value))
const listOf = computed(() =>
  row.value.kind === 'list'
    ? directory.data?.lists.find(l => l.id === asKind(row.value, 'senderOn').senderOn)
    : undefined,
)
const where = computed(() => (row.value.condition as { where?: PhrasePlace[] }).where)
const mandatory = inject(MANDATORY_RULE, ref(false))
const counts = computed(() => countsOf({ counts: (row.value.condition as { counts?: Counts }).counts, mandatory: mandatory.value }))
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
      placeholder="phrase set"
      :width="200"
      @update:model-value="(v: string) => set('set', v)"
    />
    <TextField
      v-else
      :model-value="asKind(row, 'expression').expression"
      label="Regular expression"
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
      placeholder="list"
      filterable
      :width="200"
      @update:model-value="(v: string) => set('senderOn', v)"
    />
    <ChoiceField
      v-if="exempts && !mandatory"
      :model-value="counts"
      :options="COUNTS_OPTIONS"
      label="Senders that count"
      :width="190"
      @update:model-value="v => set('counts', v === 'verified' ? undefined : v)"
    />
    <span
      v-if="listOf"
      class="second small"
    >{{ counted(listOf.size, 'entry', 'entries') }}<template v-if="!listOf.enabled"> · disabled, so it matches no sender</template></span>
    <span
      v-if="exempts && forgeryWarning(counts)"
      class="small warn"
    >{{ forgeryWarning(counts) }}</span>
    <span
      v-else-if="exempts && mandatory"
      class="small second"
    >if verified</span>
  </template>
  <component
    :is="fieldOf(fact)"
    v-else-if="fact && fieldOf(fact)"
    :model-value="(row.condition as Record<string, unknown>)[fact]"
    @update:model-value="(v: unknown) => set(fact!, v)"
  />
  <span v-else-if="row.kind === 'other'">{{ conditionWords(row.condition, directory.names) }}</span>
</template>
