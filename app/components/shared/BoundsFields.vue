<script setup lang="ts">
/** At least, or at most, so many. */
const bounds = defineModel<{ atLeast?: number, atMost?: number }>({ required: true })
const {
  unit,
  of = 1,
  label,
} = defineProps<{ unit: string, /** How many make one of the unit. */ of?: number, label: string }>()
const WAYS = [
  { value: 'atLeast', name: 'at least' },
  { value: 'atMost', name: 'at most' },
  { value: 'both', name: 'between' },
] as const
type Way = (typeof WAYS)[number]['value']
const way = computed<Way>(() =>
  bounds.value.atLeast !== undefined && bounds.value.atMost !== undefined
    ? 'both'
    : bounds.value.atMost !== undefined
      ? 'atMost'
      : 'atLeast',
)
const shown = (n: number | undefined) => (n === undefined ? '' : String(n / of))
const read = (text: string) => Math.round((Number(text.replace(',', '.')) || 0) * of)

function turn(to: Way) {
  const [low, high] = [
    bounds.value.atLeast ?? bounds.value.atMost ?? of,
    bounds.value.atMost ?? bounds.value.atLeast ?? of,
  ]
  bounds.value = to === 'both' ? { atLeast: low, atMost: high } : to === 'atMost' ? { atMost: high } : { atLeast: low }
}
</script>

<template>
  <ChoiceField
    :model-value="way"
    :options="WAYS"
    label="At least or at most"
    :width="100"
    @update:model-value="turn"
  />
  <TextField
    v-if="way !== 'atMost'"
    :model-value="shown(bounds.atLeast)"
    :label="way === 'both' ? `${label}, at least` : label"
    :width="80"
    @update:model-value="(v: string) => bounds = { ...bounds, atLeast: read(v) }"
  />
  <span v-if="way === 'both'">and</span>
  <TextField
    v-if="way !== 'atLeast'"
    :model-value="shown(bounds.atMost)"
    :label="way === 'both' ? `${label}, at most` : label"
    :width="80"
    @update:model-value="(v: string) => bounds = { ...bounds, atMost: read(v) }"
  />
  <span v-if="unit">{{ unit }}</span>
</template>
