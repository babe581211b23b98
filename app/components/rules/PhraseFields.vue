<script setup lang="ts">
import type { PhrasePlace } from '#core/policy'
import { asKind, withField, type ConditionRow } from '~/composables/conditionRows'

/** Words and phrases of one condition: which, where, how, and in whose company. */
const row = defineModel<ConditionRow>({ required: true })
const { exempts } = defineProps<{ exempts: boolean }>()
const set = (key: string, value: unknown) => (row.value = withField(row.value, key, value))
const patch = (change: Partial<ConditionRow>) => (row.value = { ...row.value, ...change })
const look = computed(() => asKind(row.value, 'phrases'))
const companied = ref(row.value.near !== '')
const more = ref(false)
const near = useTemplateRef<{ focus(): void }>('near')
async function addNear() {
  companied.value = true
  await nextTick()
  near.value?.focus()
}
const weighed = ref(look.value.minimum !== undefined)
/** How it is looked for is said otherwise than by default: then all of it is shown. */
const unfolded = ref(look.value.where !== undefined || look.value.whole === false || look.value.view !== undefined)

const WHOLE = [
  { value: true, name: 'whole words' },
  { value: false, name: 'also parts of words' },
]
const VIEWS = [
  { value: 'plain', name: 'exact spelling' },
  { value: 'bare', name: 'with or without accents' },
  { value: 'obfuscated', name: 'also obfuscated' },
] as const
</script>

<template>
  <el-input
    :model-value="row.text"
    type="textarea"
    :autosize="{ minRows: 1, maxRows: 8 }"
    :placeholder="weighed ? 'one per line; ×3 after a phrase scores 3' : 'one per line, or separated by commas'"
    aria-label="Words and phrases"
    style="width: 200px"
    @update:model-value="(text: string) => patch({ text })"
  />
  <div
    v-if="!unfolded"
    class="how"
  >
    <PlaceSelect
      :model-value="look.where"
      :exempts
      @update:model-value="(v: PhrasePlace[] | undefined) => { unfolded ||= v !== undefined && v.length > 1; set('where', v) }"
    />
  </div>
  <div
    v-else
    class="how"
  >
    <PlaceSelect
      :model-value="look.where"
      :exempts
      @update:model-value="(v: PhrasePlace[] | undefined) => set('where', v)"
    />
    <ChoiceField
      :model-value="look.whole ?? true"
      :options="WHOLE"
      label="Whole words or parts"
      @update:model-value="(v: boolean) => set('whole', v ? undefined : false)"
    />
    <ChoiceField
      :model-value="look.view ?? 'plain'"
      :options="VIEWS"
      label="Spelling"
      @update:model-value="(v: string) => set('view', v === 'plain' ? undefined : v)"
    />
  </div>
  <div
    v-if="companied"
    class="line"
  >
    <span>only near</span>
    <el-input
      ref="near"
      :model-value="row.near"
      type="textarea"
      :autosize="{ minRows: 1, maxRows: 5 }"
      aria-label="Only near"
      placeholder="one per line"
      style="width: 170px"
      @update:model-value="(near: string) => patch({ near })"
    />
    <span>within</span>
    <TextField
      :model-value="row.within === null ? '' : String(row.within)"
      label="Distance in words"
      placeholder="any"
      :width="58"
      @update:model-value="(v: string) => patch({ within: /^\d{1,3}$/.test(v.trim()) ? Number(v) : null })"
    />
    <span>words</span>
  </div>
  <div
    v-if="weighed"
    class="line"
  >
    <span>minimum score</span>
    <TextField
      :model-value="look.minimum === undefined ? '' : String(look.minimum)"
      label="Minimum score"
      placeholder="any one"
      :width="74"
      @update:model-value="(v: string) => set('minimum', Number(v) > 0 ? Number(v) : undefined)"
    />
    <span class="second small">each phrase scores 1; write ×3 after a phrase for 3</span>
  </div>
  <PressButton
    v-if="!(more || (unfolded && companied && weighed))"
    plain
    small
    @click="more = true"
  >
    + More options
  </PressButton>
  <div
    v-else
    class="line"
  >
    <PressButton
      v-if="!unfolded"
      plain
      small
      @click="unfolded = true"
    >
      + Match options
    </PressButton>
    <PressButton
      v-if="!companied"
      plain
      small
      @click="addNear"
    >
      + Only near other words
    </PressButton>
    <PressButton
      v-if="!weighed"
      plain
      small
      @click="weighed = true"
    >
      + Minimum score
    </PressButton>
  </div>
</template>

<style scoped>
.how { display: grid; gap: 4px; }
.line { display: flex; flex-wrap: wrap; gap: 8px; align-items: center; flex-basis: 100%; }
.line .plain { margin-left: -5px; padding-block: 1px; }
</style>
