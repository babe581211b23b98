<script setup lang="ts">
import { LANE_NAMES } from '#core/words'
import { KEPT_LANES, type KeptLane } from '#core/policy'
import type { ImpactView } from '~/api/client'
import { usualLanes, type Which } from '~/composables/whichMail'

/** To which mail a change applies: what comes, what is here, or both. */
const chosen = defineModel<Which>({ required: true })
const { impact, protects = false } = defineProps<{
  impact: ImpactView | null
  /** It brings mail back rather than keeping it away. */
  protects?: boolean
}>()
const lanes = computed<KeptLane[]>(() => (chosen.value.lanes.length ? chosen.value.lanes : usualLanes(protects, impact?.here)))
const here = computed(() => (impact ? lanes.value.reduce((sum, lane) => sum + impact.here[lane], 0) : null))
const patch = (change: Partial<Which>) => (chosen.value = { ...chosen.value, ...change })
const hereWords = computed(() => {
  if (here.value === null) return 'what is here'
  if (!here.value) return 'what is here (nothing would move)'
  return here.value === 1 ? 'the one that is here' : `the ${here.value.toLocaleString('en')} that are here`
})
function pick(lane: KeptLane, on: boolean) {
  const now = KEPT_LANES.filter(l => (l === lane ? on : lanes.value.includes(l)))
  // Out of no lane at all is not to touch what is here.
  patch(now.length ? { lanes: now } : { here: false })
}
</script>

<template>
  <fieldset>
    <legend class="visually-hidden">
      To which mail it applies
    </legend>
    <el-checkbox
      :model-value="chosen.coming"
      @change="(v: unknown) => patch({ coming: v === true })"
    >
      mail to come
    </el-checkbox>
    <el-checkbox
      :model-value="chosen.here"
      @change="(v: unknown) => patch({ here: v === true, lanes: v === true ? lanes : [] })"
    >
      {{ hereWords }}
    </el-checkbox>
    <template v-if="chosen.here">
      <span
        class="lanes"
        role="group"
        aria-label="Out of which lanes"
      >
        <span class="small">in</span>
        <el-checkbox
          v-for="lane in KEPT_LANES"
          :key="lane"
          :model-value="lanes.includes(lane)"
          @change="(v: unknown) => pick(lane, v === true)"
        >{{ LANE_NAMES[lane] }}</el-checkbox>
      </span>
      <span class="small">since</span>
      <DayOnLine
        :model-value="chosen.since"
        label="Since when mail is meant that is here"
        placeholder="the beginning"
        :width="124"
        @update:model-value="(since: string) => patch({ since })"
      />
    </template>
    <p
      v-if="impact?.byHand && chosen.here"
      class="small second"
    >
      {{ impact.byHand }} that somebody put where {{ impact.byHand === 1 ? 'it is' : 'they are' }} by hand stay there.
    </p>
  </fieldset>
</template>

<style scoped>
fieldset { border: 0; margin: 0; padding: 0; display: flex; flex-wrap: wrap; gap: 2px 10px; align-items: center; min-width: 0; }
fieldset p { flex-basis: 100%; margin: 0; }
:deep(.el-checkbox) { margin-right: 6px; }
.lanes { display: flex; flex-wrap: wrap; gap: 0 8px; align-items: center; flex-basis: 100%; }
</style>
