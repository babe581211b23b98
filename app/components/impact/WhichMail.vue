<script setup lang="ts">
import { LANE_NAMES } from '#core/words'
import { KEPT_LANES, type KeptLane } from '#core/policy'
import { isWhole } from '#core/simulate'
import { capitalised, counted, numberWords, plural } from '#core/wording'
import type { ImpactView } from '~/api/client'
import { lanesOf, movesHere, type Which } from '~/composables/whichMail'

/** To which mail a change applies: what comes, what is here, or both. */
const chosen = defineModel<Which>({ required: true })
const { impact, protects = false, only = false } = defineProps<{
  /** It is asked of existing mail only: the change holds for new mail in any case. */
  only?: boolean
  impact: ImpactView | null
  /** It brings mail back rather than keeping it away. */
  protects?: boolean
}>()
const lanes = computed<KeptLane[]>(() => lanesOf(chosen.value, protects, impact))
const isHere = computed(() => movesHere(chosen.value, impact))
const isBack = computed(() => KEPT_LANES.some(lane => impact?.freed[lane]))
const here = computed(() => (impact ? lanes.value.reduce((sum, lane) => sum + impact.here[lane], 0) : null))
const patch = (change: Partial<Which>) => (chosen.value = { ...chosen.value, ...change })
const hereWords = computed(() => {
  if (here.value === null) return 'existing mail'
  if (!isWhole(impact!)) return 'existing mail (still counting)'
  if (!here.value) return 'existing mail (none affected)'
  const unverified = isBack.value && impact?.freedNotVerified ? `, ${numberWords(impact.freedNotVerified)} of them not verified` : ''
  return isBack.value
    ? `also move ${counted(here.value, 'stopped message')}${unverified}`
    : counted(here.value, 'existing message')
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
      v-if="!only"
      :model-value="chosen.coming"
      @change="(v: unknown) => patch({ coming: v === true })"
    >
      new mail
    </el-checkbox>
    <span v-if="only && here === 0 && isWhole(impact!)">No existing message would move.</span>
    <el-checkbox
      v-else
      :model-value="isHere"
      @change="(v: unknown) => patch({ here: v === true, lanes: v === true ? lanes : [] })"
    >
      {{ only ? capitalised(hereWords) : hereWords }}
    </el-checkbox>
    <template v-if="isHere && !only">
      <span
        class="lanes"
        role="group"
        aria-label="In which locations"
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
        label="Existing mail since"
        placeholder="the beginning"
        :width="124"
        @update:model-value="(since: string) => patch({ since })"
      />
    </template>
    <p
      v-if="impact?.byHand && isHere"
      class="small second"
    >
      {{ counted(impact.byHand, 'message') }} that {{ plural(impact.byHand, 'was', 'were') }} moved by hand
      {{ plural(impact.byHand, 'is', 'are') }} not moved.
    </p>
    <p
      v-if="impact?.unwantedStay && isHere"
      class="small second"
    >
      {{ counted(impact.unwantedStay, 'message') }} marked unwanted {{ plural(impact.unwantedStay, 'is', 'are') }} not moved.
    </p>
  </fieldset>
</template>

<style scoped>
fieldset { border: 0; margin: 0; padding: 0; display: flex; flex-wrap: wrap; gap: 2px 10px; align-items: center; min-width: 0; }
fieldset p { flex-basis: 100%; margin: 0; }
:deep(.el-checkbox) { margin-right: 6px; }
.lanes { display: flex; flex-wrap: wrap; gap: 0 8px; align-items: center; flex-basis: 100%; }
</style>
