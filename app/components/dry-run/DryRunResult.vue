<script setup lang="ts">
import { effectWords } from '#core/kinds'
import { laneWords } from '#core/words'
import type { DryRun } from '~/api/client'

/** Where a message that was tried would go, and why; beside it under changes that are not active, where there are any. */
const { tried } = defineProps<{ tried: DryRun }>()
const directory = useDirectoryStore()
const lit = ref<string | null>(null)
/** Under what is looked at. */
const side = ref<'now' | 'under'>(tried.under ? 'under' : 'now')
watch(() => tried, () => (side.value = tried.under ? 'under' : 'now'))
const shown = computed(() => (side.value === 'under' && tried.under ? tried.under : tried))
const other = computed(() => (tried.under ? (side.value === 'under' ? tried : tried.under) : null))
const nameOf = ({ lane, quarantine }: Pick<DryRun['decision'], 'lane' | 'quarantine'>) =>
  laneWords(lane, quarantine, directory.names)
const same = computed(() => {
  const [a, b] = [tried.decision, tried.under?.decision]
  return a.lane === b?.lane && a.quarantine === b.quarantine
})
</script>

<template>
  <div
    v-if="tried.under"
    class="sides"
    role="radiogroup"
    aria-label="Policy used"
  >
    <label :class="{ on: side === 'now' }"><input
                                             v-model="side"
                                             type="radio"
                                             value="now"
                                             class="visually-hidden"
                                           >
      <span class="small second">active policy</span>
      <LaneIcon
        :lane="tried.decision.lane"
        :name="nameOf(tried.decision)"
      /></label>
    <label :class="{ on: side === 'under' }"><input
                                               v-model="side"
                                               type="radio"
                                               value="under"
                                               class="visually-hidden"
                                             >
      <span class="small second">with your changes</span>
      <LaneIcon
        :lane="tried.under.decision.lane"
        :name="nameOf(tried.under.decision)"
      /></label>
    <p class="small second">
      {{ same ? 'Same location.' : 'Different location.' }}
    </p>
  </div>
  <h2
    v-else
    class="lane-line"
  >
    <LaneIcon
      :lane="tried.decision.lane"
      :name="nameOf(tried.decision)"
    />
  </h2>
  <p class="sentence">
    {{ shown.sentence }}
  </p>
  <p
    v-if="shown.decision.effects.length"
    class="small second"
  >
    Actions: <template
      v-for="(e, i) in shown.decision.effects"
      :key="i"
    >
      {{ i ? ', ' : '' }}{{ effectWords(e) }}
    </template>
  </p>
  <ReasonList
    v-model:lit="lit"
    :reasons="shown.decision.reasons"
    :decided-by="shown.decision.decidedBy"
    :beside="other?.decision.reasons ?? null"
  />
  <div class="seen">
    <h3>Facts of the message</h3>
    <p class="second small">
      from {{ tried.facts.from.join(', ') || 'no sender' }} ·
      {{ VERDICTS[tried.facts.authentication] }}
      · {{ tried.facts.direction }}
    </p>
    <p
      v-for="d in tried.facts.defects"
      :key="d.code"
      class="small warn"
    >
      {{ d.code }}: {{ d.detail }}
    </p>
    <MessageText
      :attachments="tried.facts.attachments"
      :headers="tried.facts.headers"
      :segments="tried.facts.segments"
      :reasons="shown.decision.reasons"
      :lit
      with-subject
    />
  </div>
  <p class="small second">
    Policy version {{ shown.decision.policyVersion }}.
  </p>
</template>

<style scoped>
.sentence { font-size: 16px; }
.sides { display: flex; flex-wrap: wrap; gap: 8px 12px; align-items: center; }
.sides label { display: grid; gap: 2px; border: 1px solid var(--field); padding: 6px 12px; cursor: pointer; }
.sides label.on { border-color: var(--water); box-shadow: inset 0 -3px 0 var(--water); }
.sides label:focus-within { outline: 2px solid var(--water); outline-offset: 2px; }
.seen { border-top: 1px solid var(--hairline); padding-top: 12px; display: grid; gap: 8px; }
</style>
